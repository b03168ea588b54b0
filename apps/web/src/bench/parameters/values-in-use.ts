import { useMemo } from 'react';
import { bindDefinition } from '@cendra/core';
import type { GivenValues } from '@cendra/core';
import { nowMicros } from '../../ui/now';
import type { Bench } from '../use-bench';

/** The values in words: those given, and what parameters that start as an expression come to; with what is wrong with them. */
export function useValuesInUse({ trail: { definition }, values }: Pick<Bench, 'trail' | 'values'>) {
  return useMemo(() => {
    const { problems, used } = bindDefinition(definition, values, nowMicros());
    const expressed: GivenValues = Object.fromEntries(
      definition.parameters.flatMap(({ id, startsBy }) => (startsBy === 'expression' ? [[id, used[id] ?? []]] : [])),
    );
    return { problems, shown: { ...expressed, ...values } };
  }, [definition, values]);
}
