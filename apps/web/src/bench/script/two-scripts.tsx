import { useState } from 'react';
import type { ScriptStep } from '@cendra/core';
import { checkedStep, putTogether, scriptsBefore, splitScript } from '@cendra/core';
import { Button } from '../../ui/button';
import { mint } from '../mint';
import type { Bench } from '../use-bench';

interface TwoScriptsProps {
  readonly bench: Bench;
  readonly step: ScriptStep;
  /** The text as it is typed is kept already. */
  readonly settled: boolean;
  /** The statement it is split behind. */
  readonly chosen: number | undefined;
  readonly statements: number;
}

/** The ways to make two scripts of one, and one of two that run in one session. */
export function TwoScripts({ bench, step, settled, chosen, statements }: TwoScriptsProps) {
  const [refused, setRefused] = useState<{ readonly chosen: number; readonly because: string }>();
  const { definition } = bench.trail;
  const split = () => {
    if (chosen === undefined) return;
    const made = splitScript(definition, step, chosen, mint);
    if ('because' in made) {
      setRefused({ chosen, because: made.because });
      return;
    }
    bench.edit(...made.edits);
    // The first is asked about by its source once it is looked at, and the second waits for that.
    bench.select(made.step);
  };
  const join = () => {
    const edits = putTogether(definition, step);
    if (edits) bench.edit(...edits);
  };
  return (
    <>
      {statements > 1 && (
        <Button small disabled={!settled || chosen === undefined || chosen >= statements} onClick={split}>
          {chosen === undefined || chosen >= statements ? 'Split in two' : `Split behind ${chosen}`}
        </Button>
      )}
      {step.inputs.length > 0 && (
        <Button small disabled={!settled} onClick={join}>
          Put both together
        </Button>
      )}
      {refused && refused.chosen === chosen && (
        <span role="status" className="basis-full text-right text-meta text-rust">
          It cannot be split there: {refused.because}.
        </span>
      )}
    </>
  );
}

/** In whose session a script goes on, with the way there. */
export function GoesOnFrom({ bench, step }: Pick<TwoScriptsProps, 'bench' | 'step'>) {
  const first = scriptsBefore(bench.trail.definition, step).at(-1);
  if (!first) return null;
  return (
    <>
      , going on from{' '}
      <button type="button" className="underline underline-offset-2" onClick={() => bench.select(first.id)}>
        {checkedStep(bench.trail, first.id)?.title}
      </button>
    </>
  );
}
