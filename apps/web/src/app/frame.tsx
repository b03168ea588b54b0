import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { CircleQuestionMark, Moon, Search, Sun, UserRound } from 'lucide-react';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Link, Navigate, NavLink, Outlet, useLocation, useNavigate, useRouteError } from 'react-router';
import type { MeDto } from '../api';
import { api, rememberCsrf } from '../api';
import { failureOf } from '../api/problem';
import { useSessionOfOtherTabs } from '../people/session';
import { Button } from '../ui/button';
import { Mark } from '../ui/glyphs';
import { FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import { useEvents } from './events';
import { useKeptFocus } from './kept-focus';
import { ServerNotice } from './server-notice';
import { useAppDispatch, useAppSelector } from './store';

const CommandPalette = lazy(() => import('./command-palette'));
const SignInAgain = lazy(() => import('../people/sign-in-again'));
const HelpDialog = lazy(() => import('./help-dialog'));

/** The page around every view: who is signed in, the way to the main lists, and the event stream. */
export function Frame() {
  const me = api.usePeopleMeQuery();
  const location = useLocation();
  const failure = failureOf(me.error);
  // Where somebody was signed in, all that is open stays as it is until they are again.
  if (failure?.status === 401 && !me.data)
    return <Navigate to="/sign-in" replace state={{ from: `${location.pathname}${location.search}` }} />;
  if (!me.data) return <main className="p-6">{failure ? <FailureNotice failure={failure} /> : <Waiting what="Opening Cendra" />}</main>;
  rememberCsrf(me.data.csrf);
  return <SignedIn me={me.data} />;
}

function SignedIn({ me }: { readonly me: MeDto }) {
  const { shownName, role } = me;
  const signedOut = useAppSelector((state) => state.connection.signedOut);
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState(false);
  useEvents();
  useKeptFocus();
  useSessionOfOtherTabs(me);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') setPalette(true);
      else if (event.key === 'F1' || (event.key === '?' && !isTyping(event.target))) setHelp(true);
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <div className="flex h-full min-h-(--least-height) flex-col">
      <header className="flex h-11 shrink-0 items-center gap-6 border-b bg-panel px-3 whitespace-nowrap max-md:gap-2">
        <Link to="/datasets" className="flex items-center gap-2 font-serif text-section">
          <Mark />
          Cendra
        </Link>
        <nav aria-label="Main" className="flex gap-1">
          {role !== 'reader' && <MainLink to="/datasets">Datasets</MainLink>}
          {role !== 'reader' && <MainLink to="/sources">Sources</MainLink>}
          {role !== 'reader' && <MainLink to="/texts">Kept texts</MainLink>}
          {role !== 'reader' && <MainLink to="/runs">Runs</MainLink>}
          {role === 'steward' && <MainLink to="/links">Links</MainLink>}
          {role === 'steward' && <MainLink to="/limits">Limits</MainLink>}
        </nav>
        <div className="ml-auto flex items-center gap-1">
          {role !== 'reader' && (
            <Button kind="quiet" small icon={Search} onClick={() => setPalette(true)}>
              <span className="max-md:sr-only">Search</span> <kbd className="font-mono text-meta text-ink-faint max-lg:hidden">Ctrl+K</kbd>
            </Button>
          )}
          <Button kind="quiet" small icon={CircleQuestionMark} onClick={() => setHelp(true)} title="Keys and words (? or F1)">
            <span className="sr-only">Keys and words</span>
          </Button>
          <ThemeSwitch />
          <PersonMenu shownName={shownName} role={role} />
        </div>
      </header>
      <ServerNotice />
      <div className="min-h-0 flex-1">{role === 'reader' ? <ReaderWelcome /> : <Outlet />}</div>
      <Suspense fallback={null}>
        {palette && <CommandPalette onClose={() => setPalette(false)} />}
        {help && <HelpDialog onClose={() => setHelp(false)} />}
        {signedOut && <SignInAgain me={me} />}
      </Suspense>
    </div>
  );
}

/** Where a question mark is a letter like others. */
function isTyping(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
}

/** A reader's pages come with handed-off versions; until there is one for them, this says so. */
function ReaderWelcome() {
  return (
    <main className="p-6 text-ink-soft">Nothing was handed off to you yet. An analyst hands off a dataset; then it is found here.</main>
  );
}

function MainLink({ to, children }: { readonly to: string; readonly children: string }) {
  return (
    <NavLink
      to={to}
      className={({ isActive }) =>
        `border-b-2 px-2 py-2.5 ${isActive ? 'border-ember font-medium text-ink' : 'border-transparent text-ink-soft hover:text-ink'}`
      }
    >
      {children}
    </NavLink>
  );
}

function ThemeSwitch() {
  const [dark, setDark] = useState(document.documentElement.dataset.theme === 'dark');
  const change = () => {
    const theme = dark ? 'light' : 'dark';
    document.documentElement.dataset.theme = theme;
    localStorage.setItem('cendra.theme', theme);
    setDark(!dark);
  };
  return (
    <Button kind="quiet" small icon={dark ? Sun : Moon} onClick={change} title={dark ? 'Paper, the light theme' : 'Char, the dark theme'}>
      <span className="max-md:sr-only">{dark ? 'Paper' : 'Char'}</span>
    </Button>
  );
}

function PersonMenu({ shownName, role }: { readonly shownName: string; readonly role: string }) {
  const [signOut] = api.usePeopleSignOutMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const leave = async () => {
    await signOut();
    rememberCsrf('');
    dispatch(api.util.resetApiState());
    await navigate('/sign-in');
  };
  return (
    <Menu>
      <MenuButton className="inline-flex h-6 items-center gap-1.5 rounded px-2 text-ink-soft hover:text-ink">
        <UserRound size={16} strokeWidth={1.75} aria-hidden />
        <span className="max-md:sr-only">{shownName}</span>
      </MenuButton>
      <MenuItems anchor="bottom end" className="z-40 mt-1 min-w-44 rounded border bg-paper py-1 shadow-md">
        <p className="border-b px-3 py-1.5 text-ink-soft">signed in as {role}</p>
        <MenuItem>
          <button type="button" onClick={() => void leave()} className="block w-full px-3 py-1.5 text-left data-focus:bg-panel">
            Sign out
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
  );
}

export function NotFound({ broken = false }: { readonly broken?: boolean }) {
  const error = useRouteError();
  return (
    <main className="space-y-3 p-6">
      <h1 className="font-serif text-title">{broken ? 'This page broke' : 'There is no such page'}</h1>
      <p className="text-ink-soft">
        {broken ? `What was saved is safe. ${error instanceof Error ? error.message : ''}` : 'The address leads nowhere.'}
      </p>
      <Link to="/datasets" className="text-ember underline" reloadDocument={broken}>
        To the datasets
      </Link>
    </main>
  );
}
