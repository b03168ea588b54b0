import { useEffect, useState } from 'react';
import type { DescribedText, Problem, TextStep } from '@cendra/core';
import type { DescribeTextDto } from '../../api';
import { api } from '../../api';
import { useTextsAround } from '../script/use-texts-around';
import type { Bench } from '../use-bench';
import { isLetBe } from './let-be';
import { useKnown } from './use-known';
import { useRead } from './use-read';

const NOTHING_MET: DescribedText['met'] = [];

/** What is found in the text of a step, as its editor tells it, without those that are let be; undefined until it has been read. */
export function useFoundInText(bench: Bench, step: TextStep): readonly Problem[] | undefined {
  const { text } = step.sql;
  const known = useKnown(bench.trail.definition.parameters, step.source, text);
  const around = useTextsAround(bench, step);
  const met = useMet(bench, step, around?.before);
  return useRead(step.kind, text, known, met, around)?.filter((each) => !isLetBe(step, text, each));
}

/** What the parameters of the text meet, as its source says; nothing before it has answered. */
function useMet(bench: Bench, { kind, source, sql }: TextStep, before: readonly string[] | undefined): DescribedText['met'] {
  const [describe] = api.useTextsDescribeMutation();
  const [met, setMet] = useState(NOTHING_MET);
  // An edit elsewhere asks the source nothing again.
  const named = JSON.stringify(bench.trail.definition.parameters.map(({ name, type }) => ({ name, type })));
  useEffect(() => {
    let current = true;
    const parameters = JSON.parse(named) as DescribeTextDto['parameters'];
    const script = kind === 'script' ? { script: true, before: [...(before ?? [])] } : {};
    void describe({ id: source, describeTextDto: { text: sql.text, parameters, ...script } }).then(({ data }) => {
      if (current && data) setMet(data.met as unknown as DescribedText['met']);
    });
    return () => {
      current = false;
    };
  }, [describe, kind, source, sql.text, named, before]);
  return met;
}
