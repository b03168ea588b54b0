import { DialogTitle } from '@headlessui/react';
import { useMemo, useState } from 'react';
import type { Question } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import type { Bench } from '../use-bench';
import { repeatedIn, splitValues } from './split';
import { Overlay } from '../../ui/overlay';

/** Asks which of some values there are. */
export type KnownQuestion = (values: readonly string[]) => Question & { readonly kind: 'known' | 'known choices' };

interface ListDialogProps {
  readonly bench: Bench;
  readonly label: string;
  readonly noun: string;
  readonly values: readonly string[];
  readonly known: KnownQuestion | undefined;
  readonly onKeep: (values: readonly string[]) => void;
  readonly onClose: () => void;
}

const SHOWN = 200;
const REST = 400;

/** A long list as text, one value a line, with what is not found and what stands there twice. */
export function ListDialog({ bench, label, noun, values, known, onKeep, onClose }: ListDialogProps) {
  const [typed, setTyped] = useState(() => values.join('\n'));
  const all = useMemo(() => splitValues(typed), [typed]);
  const distinct = useMemo(() => [...new Set(all)], [all]);
  const repeated = useMemo(() => repeatedIn(all), [all]);
  const { answer, failure, waiting } = useAnswer(bench, known && distinct.length > 0 ? known(distinct) : undefined, REST);
  const missing = answer?.missing ?? [];
  return (
    <Overlay place="middle" look="flex w-full max-w-3xl flex-col gap-3 p-4" onClose={onClose}>
      <DialogTitle className="text-section font-medium">{label}</DialogTitle>
      <div className="flex min-h-0 gap-4">
        <textarea
          autoFocus
          aria-label={`${label}, one a line`}
          rows={16}
          value={typed}
          spellCheck={false}
          onChange={(event) => setTyped(event.target.value)}
          className="w-1/2 rounded border bg-paper px-2 py-1 font-mono"
        />
        <div className="w-1/2 min-w-0 space-y-2 overflow-auto" aria-live="polite">
          <p className="figures">
            {grouped(distinct.length)} {noun}
            {waiting && ', looking which there are …'}
            {answer && `, ${grouped(answer.found.length)} of them found`}
          </p>
          <FailureNotice failure={failure} />
          {missing.length > 0 && (
            <section aria-label="Not found">
              <h3 className="font-medium text-amber">{grouped(missing.length)} not found</h3>
              <ul className="font-mono text-meta">
                {missing.slice(0, SHOWN).map(({ value, nearest }) => (
                  <li key={value}>
                    {value}
                    {nearest[0] && (
                      <Button small kind="quiet" onClick={() => setTyped(replaced(all, value, nearest[0]?.value ?? value))}>
                        write {nearest[0].value}
                      </Button>
                    )}
                  </li>
                ))}
                {missing.length > SHOWN && <li>… and {grouped(missing.length - SHOWN)} more</li>}
              </ul>
            </section>
          )}
          {repeated.length > 0 && (
            <section aria-label="Repeated">
              <h3 className="font-medium text-ink-soft">{grouped(repeated.length)} repeated; each counts once</h3>
              <ul className="font-mono text-meta">
                {repeated.slice(0, SHOWN).map(([value, times]) => (
                  <li key={value}>
                    {value} × {times}
                  </li>
                ))}
              </ul>
            </section>
          )}
        </div>
      </div>
      <div className="flex gap-2">
        <Button
          kind="primary"
          onClick={() => {
            onKeep(distinct);
            onClose();
          }}
        >
          Use these {grouped(distinct.length)}
        </Button>
        {missing.length > 0 && (
          <Button onClick={() => setTyped(distinct.filter((each) => !missing.some(({ value }) => value === each)).join('\n'))}>
            Take out what is not found
          </Button>
        )}
        <Button onClick={onClose}>Leave it as it was</Button>
      </div>
    </Overlay>
  );
}

const replaced = (all: readonly string[], value: string, by: string) => all.map((each) => (each === value ? by : each)).join('\n');
