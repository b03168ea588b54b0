import { useEffect, useState } from 'react';
import type { DescribedText, TextStep } from '@cendra/core';
import { textEdit } from '@cendra/core';
import { api } from '../../api';
import { useTextsAround } from '../script/use-texts-around';
import type { Bench } from '../use-bench';
import { isLetBe, lettingBe } from './let-be';
import { TextProblems } from './text-problems';
import { useKnown } from './use-known';
import { useRead } from './use-read';

interface FoundInTextProps {
  readonly bench: Bench;
  readonly step: TextStep;
  /** Says how many were found, once the text has been read. */
  onFound(count: number): void;
}

const NOTHING_MET: DescribedText['met'] = [];

/** What is found in the text of a step, as its editor tells it, without those that are let be. */
export default function FoundInText({ bench, step, onFound }: FoundInTextProps) {
  const { definition } = bench.trail;
  const { text } = step.sql;
  const known = useKnown(definition.parameters, step.source, text);
  const around = useTextsAround(bench, step);
  const met = useMet(bench, step, around?.before);
  const read = useRead(step.kind, text, known, met, around);
  const found = read?.filter((each) => !isLetBe(step, text, each));
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

/** What the parameters of the text meet, as its source says; nothing before it has answered. */
function useMet(bench: Bench, { kind, source, sql }: TextStep, before: readonly string[] | undefined): DescribedText['met'] {
  const [describe] = api.useTextsDescribeMutation();
  const [met, setMet] = useState(NOTHING_MET);
  const { parameters } = bench.trail.definition;
  useEffect(() => {
    let current = true;
    const named = parameters.map(({ name, type }) => ({ name, type }));
    const script = kind === 'script' ? { script: true, before: [...(before ?? [])] } : {};
    void describe({ id: source, describeTextDto: { text: sql.text, parameters: named, ...script } }).then(({ data }) => {
      if (current && data) setMet(data.met as unknown as DescribedText['met']);
    });
    return () => {
      current = false;
    };
  }, [describe, kind, source, sql.text, parameters, before]);
  return met;
}
