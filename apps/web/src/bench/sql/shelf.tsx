import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import type { FromShelf, SqlStep } from '@cendra/core';
import type { KeptTextDto } from '../../api';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import type { Bench } from '../use-bench';

const KeepDialog = lazy(() => import('../../kept-texts/keep-dialog'));
const TakeDialog = lazy(() => import('./take-dialog'));
const Difference = lazy(() => import('../../ui/text-difference').then((each) => ({ default: each.TextDifference })));

interface ShelfProps {
  readonly bench: Bench;
  readonly step: SqlStep;
  /** As it stands in the editor. */
  readonly text: string;
  /** Writes another text into the editor. */
  onTake(text: string): void;
}

const ITEM = 'block w-full px-3 py-1.5 text-left data-focus:bg-panel data-disabled:opacity-50';

/** What a text and the shelf have to do with each other. */
export function ShelfMenu({ bench, step, text, onTake }: ShelfProps) {
  const [open, setOpen] = useState<'take' | 'keep'>();
  const kept = useKept(step);
  const [change, changing] = api.useKeptTextsChangeMutation();
  const from = (to: FromShelf | undefined) => fromShelf(bench, step, to);
  const newest = kept?.versions[0]?.text;
  const save = async (of: KeptTextDto) => {
    const answer = await change({ id: of.id, changedKeptTextDto: { version: of.version, text } });
    if (answer.data) from({ text: of.id, version: answer.data.version });
  };
  const acts: readonly (readonly [string, (() => void) | undefined])[] = [
    ['Take a kept text …', () => setOpen('take')],
    ['Put this text there …', text.trim() === '' ? undefined : () => setOpen('keep')],
    ...(kept && step.kept
      ? ([
          [
            `Make it version ${kept.version + 1} of ${kept.name}`,
            newest === text || step.kept.version < kept.version ? undefined : () => void save(kept),
          ],
          ['Let it be a text of its own', () => from(undefined)],
        ] as const)
      : []),
  ];
  return (
    <>
      <Menu>
        <MenuButton as={Button} small>
          Shelf …
        </MenuButton>
        <MenuItems anchor="bottom end" className="z-40 min-w-44 rounded border bg-paper py-1 shadow-md">
          {kept && (
            <p className="border-b px-3 py-1.5 text-ink-soft">
              From{' '}
              <Link to={`/texts/${kept.id}`} className="underline underline-offset-2">
                {kept.name}
              </Link>
              , version {step.kept?.version}
            </p>
          )}
          {acts.map(([words, act]) => (
            <MenuItem key={words} disabled={!act}>
              <button type="button" className={ITEM} onClick={act}>
                {words}
              </button>
            </MenuItem>
          ))}
        </MenuItems>
      </Menu>
      <FailureNotice failure={failureOf(changing.error)} />
      <Suspense fallback={null}>
        {open === 'keep' && (
          <KeepDialog
            source={step.source}
            text={text}
            called={bench.trail.definition.title}
            onKept={({ id, version }) => from({ text: id, version })}
            onClose={() => setOpen(undefined)}
          />
        )}
        {open === 'take' && (
          <TakeDialog
            source={step.source}
            onTake={(taken, words) => {
              onTake(words);
              from(taken);
            }}
            onClose={() => setOpen(undefined)}
          />
        )}
      </Suspense>
    </>
  );
}

/** That the kept text a step was taken from has changed since, with the difference; nothing is taken by itself. */
export function NewerOnShelf({ bench, step, text, onTake }: ShelfProps) {
  const kept = useKept(step);
  const [shown, setShown] = useState(false);
  const [newest] = kept?.versions ?? [];
  if (!kept || !newest || !step.kept || step.kept.version >= kept.version) return null;
  return (
    <section aria-label="Changed on the shelf" className="space-y-1 border-b px-3 py-1.5">
      <p className="flex flex-wrap items-center gap-2">
        <span className="text-amber">
          {kept.name} is at version {kept.version} on the shelf; this text was taken from version {step.kept.version}.
        </span>
        <Button small aria-expanded={shown} onClick={() => setShown(!shown)}>
          What differs
        </Button>
        <Button
          small
          onClick={() => {
            onTake(newest.text);
            fromShelf(bench, step, { text: kept.id, version: kept.version });
          }}
        >
          Take version {kept.version}
        </Button>
        <Button small onClick={() => fromShelf(bench, step, { text: kept.id, version: kept.version })}>
          Keep this text
        </Button>
      </p>
      {shown && (
        <Suspense fallback={null}>
          <div className="max-h-40 overflow-auto">
            <Difference label="From this text to the one on the shelf" from={text} to={newest.text} />
          </div>
        </Suspense>
      )}
    </section>
  );
}

/** The kept text a step was taken from; undefined where there is none, or it is not to be seen. */
function useKept({ kept }: SqlStep): KeptTextDto | undefined {
  return api.useKeptTextsOneQuery({ id: kept?.text ?? '' }, { skip: !kept }).currentData;
}

function fromShelf(bench: Bench, { id, kept }: SqlStep, to: FromShelf | undefined): void {
  if (kept?.text === to?.text && kept?.version === to?.version) return;
  bench.edit({ kind: 'set step', step: id, property: 'kept', from: kept, to });
}
