import { useEffect, useMemo, useRef, useState } from 'react';
import type { ScriptStep, ToldScript } from '@cendra/core';
import { bindDefinition } from '@cendra/core';
import { api } from '../../api';
import type { Failure } from '../../api/problem';
import { failureOf } from '../../api/problem';
import { nowMicros } from '../../ui/now';
import type { Described } from '../sql/use-described';
import type { Bench } from '../use-bench';

const NOTHING_BEFORE: readonly string[] = [];

export interface ScriptRun {
  /** What the script did when it ran last, here. */
  readonly told: ToldScript | undefined;
  /** It was of this text and these values. */
  readonly current: boolean;
  readonly running: boolean;
  readonly failure: Failure | undefined;
  /** A parameter needs another value before it can run. */
  readonly lacksValues: boolean;
  /** The session is kept at the source. */
  readonly kept: boolean;
  /** Up to a statement, or all of them; what stands in its session does not run again. */
  run(to?: number): void;
  stop(): void;
  end(): void;
}

/**
 * Runs a script statement by statement, and keeps what was told of it while the step is open. What was typed last is kept
 * and saved before it runs.
 */
export function useScriptRun(
  { id, trail, values, bench }: Bench,
  step: ScriptStep,
  { text, keep }: Pick<Described, 'text' | 'keep'>,
  before: readonly string[] = NOTHING_BEFORE,
): ScriptRun {
  const [ask, asking] = api.useScriptsRunMutation();
  const [askEnd] = api.useScriptsEndMutation();
  const [told, setTold] = useState<{ readonly key: string; readonly told: ToldScript }>();
  const [kept, setKept] = useState(false);
  const [wanted, setWanted] = useState<{ readonly to: number | undefined }>();
  const under = useRef<ReturnType<typeof ask>>(undefined);
  const binding = useMemo(() => bindDefinition(trail.definition, values, nowMicros()), [trail.definition, values]);
  const key = JSON.stringify([before, text, step.tempKeys, binding.used]);
  const settled = bench.pending.length === 0 && step.sql.text === text;
  const { revision } = bench.saved;
  useEffect(() => {
    if (!wanted || !settled) return;
    setWanted(undefined);
    const { to } = wanted;
    const given = binding.used as Record<string, string[]>;
    const asked = ask({ runScriptDto: { dataset: id, revision, step: step.id, values: given, ...(to === undefined ? {} : { to }) } });
    under.current = asked;
    void asked.then(({ data }) => {
      if (!data) return;
      const came = data as unknown as ToldScript;
      setTold({ key, told: came });
      setKept(came.until !== null);
    });
  }, [wanted, settled, ask, binding, id, revision, step.id, key]);
  return {
    told: told?.told,
    current: told?.key === key,
    running: asking.isLoading || wanted !== undefined,
    failure: failureOf(asking.error),
    lacksValues: binding.problems.length > 0,
    kept,
    run: (to) => {
      keep();
      setWanted({ to });
    },
    stop: () => {
      setWanted(undefined);
      under.current?.abort();
    },
    end: () => {
      setKept(false);
      void askEnd({ scriptDto: { dataset: id, step: step.id } });
    },
  };
}
