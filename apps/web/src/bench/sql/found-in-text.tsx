import { useEffect } from 'react';
import type { TextStep } from '@cendra/core';
import { textEdit } from '@cendra/core';
import type { Bench } from '../use-bench';
import { lettingBe } from './let-be';
import { TextProblems } from './text-problems';
import { useFoundInText } from './use-found-in-text';

interface FoundInTextProps {
  readonly bench: Bench;
  readonly step: TextStep;
  /** Says how many were found, once the text has been read. */
  onFound(count: number): void;
}

/** What is found in the text of a step, as its editor tells it, without those that are let be. */
export default function FoundInText({ bench, step, onFound }: FoundInTextProps) {
  const { definition } = bench.trail;
  const { text } = step.sql;
  const found = useFoundInText(bench, step);
  const count = found?.length;
  useEffect(() => {
    if (count !== undefined) onFound(count);
  }, [count, onFound]);
  return (
    <TextProblems
      id={`found in ${step.id}`}
      text={text}
      problems={found ?? []}
      onExchange={
        bench.withoutValues
          ? undefined
          : ({ from, to, instead }) => bench.edit(...textEdit(definition, step, text.slice(0, from) + instead + text.slice(to)))
      }
      onLetBe={bench.withoutValues ? undefined : (problem, reason) => bench.edit(lettingBe(step, text, problem, reason))}
    />
  );
}
