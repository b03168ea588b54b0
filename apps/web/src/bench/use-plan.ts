import { useMemo } from 'react';
import type { Binding, CheckedStep, Plan } from '@cendra/core';
import { bindDefinition, outputColumns, planRows, relationAfter, shownDialect } from '@cendra/core';
import { api } from '../api';
import { nowMicros } from '../ui/now';
import type { Bench } from './use-bench';

/** What runs where for all rows of a step, with the values now in use. */
export interface PlanShown {
  readonly plan: Plan;
  readonly binding: Binding;
  /** The kind of a source, which says how its statements are written. */
  kindOf(source: string): string;
  nameOf(source: string): string;
}

/** Undefined before the step is without errors, has a field, and its values are filled. */
export function usePlan(bench: Bench, checked: CheckedStep | undefined): PlanShown | undefined {
  const { trail, values } = bench;
  const sources = api.useSourcesListQuery().data;
  return useMemo(() => {
    const binding = bindDefinition(trail.definition, values, nowMicros());
    const columns = checked ? outputColumns(trail, checked.step.id) : [];
    if (!checked || checked.blocked || binding.problems.length > 0 || columns.length === 0) return undefined;
    const kindOf = (source: string) => sources?.find((each) => each.id === source)?.kind ?? '';
    const plan = planRows(relationAfter(trail, checked.step.id, binding), columns, undefined, (site) =>
      shownDialect(site.kind === 'combine' ? undefined : kindOf(site.source)),
    );
    return { plan, binding, kindOf, nameOf: (source) => sources?.find((each) => each.id === source)?.name ?? 'a source that was removed' };
  }, [trail, values, checked, sources]);
}

/** The plan in few words: where it runs, and in how many statements. */
export function planWords({ plan, nameOf }: PlanShown): string {
  const places = plan.stages.flatMap(({ site }) => (site.kind === 'combine' ? [] : [site.source]));
  const names = [...new Set(places)].map(nameOf).join(', ');
  const statements = places.length === 1 ? 'one statement' : `${places.length} statements`;
  const meets = plan.stages.some(({ site }) => site.kind === 'combine') ? ', met in the combine engine' : '';
  return `Runs in ${names}, ${statements}${meets}`;
}
