import { useEffect, useMemo, useState } from 'react';
import type { Answers, GivenValues, JoinStep, Question } from '@cendra/core';
import { isAboutJoin, readsSource, subTrail } from '@cendra/core';
import { api } from '../api';
import type { Failure } from '../api/problem';
import { failureOf } from '../api/problem';
import { useAppDispatch, useAppSelector } from '../app/store';
import type { Bench } from '../bench/use-bench';

export interface Answer<Q extends Question> {
  readonly answer: Answers[Q['kind']] | undefined;
  readonly failure: Failure | undefined;
  readonly waiting: boolean;
  /** Asks once more, such as after it took too long. */
  again(): void;
}

/**
 * The answer to a question about the dataset's rows. It is remembered until what it depends on changes; a question
 * that is given up is stopped at the source. `rest` is how long it has to stay the same before it is asked, in ms.
 */
export function useAnswer<Q extends Question>(bench: Bench, question: Q | undefined, rest = 0): Answer<Q> {
  const dispatch = useAppDispatch();
  const { saved, pending } = bench.bench;
  const settled = pending.length === 0;
  const inputs = useMemo(() => inputsOf(bench, question), [bench, question]);
  // What failed because nobody was signed in is asked again.
  const session = useAppSelector((state) => state.connection.session);
  const [attempt, setAttempt] = useState(0);
  const key = question && settled ? JSON.stringify([inputs, question, session, attempt]) : undefined;
  const [known, setKnown] = useState<{ readonly key: string; readonly answer?: unknown; readonly failure?: Failure }>();
  useEffect(() => {
    if (!question || key === undefined) return undefined;
    let stop: (() => void) | undefined;
    const timer = setTimeout(() => {
      const asked = dispatch(
        api.endpoints.answer.initiate(
          {
            dataset: bench.id,
            revision: saved.revision,
            values: bench.values as Record<string, string[]>,
            question,
            inputs,
          },
          { forceRefetch: attempt > 0 },
        ),
      );
      let current = true;
      void asked.then(({ data, error }) => {
        if (!current) return;
        const failure = failureOf(error);
        setKnown(failure ? { key, failure } : { key, answer: data });
      });
      stop = () => {
        current = false;
        asked.abort();
        asked.unsubscribe();
      };
    }, rest);
    return () => {
      clearTimeout(timer);
      stop?.();
    };
    // The key holds all a question and its answer depend on.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, dispatch, rest]);
  const current = known?.key === key ? known : undefined;
  return {
    answer: current?.answer as Answers[Q['kind']] | undefined,
    failure: current?.failure,
    waiting: question !== undefined && current === undefined,
    again: () => setAttempt(attempt + 1),
  };
}

/** What an answer depends on besides its question: the steps before, as far as they decide rows, and the values. */
function inputsOf({ trail, values, bench }: Bench, question: Question | undefined): string {
  if (!question) return '';
  const { definition } = trail;
  if (!('step' in question)) {
    const tables = definition.steps.filter((each) => readsSource(each));
    return JSON.stringify([tables, definition.parameters, values]);
  }
  if (isAboutJoin(question)) {
    const steps = subTrail(definition, question.step).map(({ name: _name, ...step }) =>
      step.id === question.step && step.kind === 'join' ? joinedBy(step) : step,
    );
    return JSON.stringify([steps, definition.calendar, valuesUsed(values, definition.parameters), bench.id]);
  }
  const own =
    'clause' in question || ['follow', 'clauses', 'nesting', 'conversions', 'text', 'sweep', 'parts', 'same rows'].includes(question.kind);
  const before = definition.steps.find((each) => each.id === question.step)?.inputs.find((each) => each !== null);
  const steps = subTrail(definition, own ? question.step : (before ?? question.step)).map(({ name: _name, ...step }) => step);
  return JSON.stringify([steps, definition.calendar, valuesUsed(values, definition.parameters), bench.id]);
}

/** What of a join decides which rows meet. */
const joinedBy = ({ inputs, pairs, everyPair, fields, one }: Omit<JoinStep, 'name'>) => ({ inputs, pairs, everyPair, fields, one });

const valuesUsed = (values: GivenValues, parameters: Bench['trail']['definition']['parameters']) =>
  parameters.map(({ id, startsAs, startsBy }) => [id, values[id] ?? startsAs, startsBy]);
