import { Field, Input, Label } from '@headlessui/react';
import { useForm } from 'react-hook-form';
import { useLocation, useNavigate } from 'react-router';
import { api } from '../api';
import type { SignInDto } from '../api';
import { failureOf } from '../api/problem';
import { useAppDispatch } from '../app/store';
import { Button } from '../ui/button';
import { Mark } from '../ui/glyphs';
import { FailureNotice } from '../ui/notice';
import { useBeginSession } from './session';

export function SignInPage() {
  const { register, handleSubmit } = useForm<SignInDto>();
  const [signIn, { error, isLoading }] = api.usePeopleSignInMutation();
  const demo = api.usePeopleDemoSignInsQuery().data ?? [];
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const begin = useBeginSession();
  const { from } = (useLocation().state ?? {}) as { from?: string };
  const enter = async (given: SignInDto) => {
    const answer = await signIn({ signInDto: given });
    if (!answer.data) return;
    begin(answer.data);
    dispatch(api.util.resetApiState());
    const wanted = from === '/' ? undefined : from;
    await navigate(wanted ?? (answer.data.role === 'steward' ? '/sources' : '/datasets'), { replace: true });
  };
  return (
    <main className="mx-auto flex min-h-full max-w-md flex-col justify-center gap-6 p-6">
      <h1 className="flex items-center gap-2 font-serif text-title">
        <Mark />
        Cendra
      </h1>
      <form onSubmit={handleSubmit(enter)} className="space-y-3 border-t pt-4">
        <Entry label="Name" input={<Input autoComplete="username" {...register('name', { required: true })} className={INPUT} />} />
        <Entry
          label="Password"
          input={<Input type="password" autoComplete="current-password" {...register('password', { required: true })} className={INPUT} />}
        />
        <FailureNotice failure={failureOf(error)} />
        <Button type="submit" kind="primary" disabled={isLoading}>
          Sign in
        </Button>
      </form>
      {demo.length > 0 && (
        <section aria-labelledby="demo" className="border-t pt-4">
          <h2 id="demo" className="text-section">
            Demo of the beekeepers’ cooperative
          </h2>
          <ul className="mt-2 border-t">
            {demo.map(({ name, shownName, role, password }) => (
              <li key={name} className="flex items-center justify-between border-b py-1.5">
                <span>
                  {shownName} <span className="text-ink-soft">{role}</span>
                </span>
                <Button small onClick={() => void enter({ name, password })}>
                  Sign in as the demo {role}
                </Button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </main>
  );
}

const INPUT = 'h-8 w-full rounded border bg-paper px-2';

function Entry({ label, input }: { readonly label: string; readonly input: React.ReactNode }) {
  return (
    <Field className="space-y-1">
      <Label className="block text-ink-soft">{label}</Label>
      {input}
    </Field>
  );
}
