import { useMemo } from 'react';
import type { Binding, CheckedStep, DialectOf, Plan, Site, Stage } from '@cendra/core';
import {
  bindDefinition,
  nodesOfRelation,
  outputColumns,
  planRows,
  ProblemError,
  relationAfter,
  shownDialect,
  sourcesOf,
  subTrail,
} from '@cendra/core';
import { api } from '../../api';
import { nowMicros } from '../../ui/now';
import type { Bench } from '../use-bench';

/** What runs where for all rows of a step, with the values now in use. */
export interface PlanShown {
  readonly plan: Plan;
  readonly binding: Binding;
  /** The kind of a source, which says how its statements are written. */
  kindOf(source: string): string;
  nameOf(source: string): string;
}

/** Undefined before the step is without errors, has a field, its values are filled, and its sources are known. */
export function usePlan(bench: Bench, checked: CheckedStep | undefined): PlanShown | undefined {
  const { trail, values } = bench;
  const sources = api.useSourcesListQuery().data;
  return useMemo(() => {
    const binding = bindDefinition(trail.definition, values, nowMicros());
    const columns = checked ? outputColumns(trail, checked.step.id) : [];
    if (!checked || checked.blocked || binding.problems.length > 0 || columns.length === 0) return undefined;
    const read = sourcesOf({ steps: subTrail(trail.definition, checked.step.id) });
    const known = sources ?? [];
    if (read.some((id) => known.every((each) => each.id !== id))) return undefined;
    const kindOf = (source: string) => known.find((each) => each.id === source)?.kind ?? '';
    const plan = planned(() => planRows(relationAfter(trail, checked.step.id, binding), columns, undefined, dialectsOf(kindOf)));
    if (!plan) return undefined;
    return { plan, binding, kindOf, nameOf: (source) => known.find((each) => each.id === source)?.name ?? '' };
  }, [trail, values, checked, sources]);
}

/** How statements are written where people read them, by the kinds of their sources. */
export const dialectsOf =
  (kindOf: PlanShown['kindOf']): DialectOf =>
  (site) =>
    shownDialect(site.kind === 'combine' ? undefined : kindOf(site.source));

export const siteName = ({ nameOf }: PlanShown, site: Site): string =>
  site.kind === 'combine' ? 'the combine engine' : nameOf(site.source);

/** What no place can compute is told where it runs. */
function planned(plan: () => Plan): Plan | undefined {
  try {
    return plan();
  } catch (error) {
    if (error instanceof ProblemError) return undefined;
    throw error;
  }
}

/** The plan in few words: where it runs, and in how many statements. */
export function planWords({ plan, nameOf }: PlanShown): string {
  const places = plan.stages.flatMap(({ site }) => (site.kind === 'combine' ? [] : [site.source]));
  const names = [...new Set(places)].map(nameOf).join(', ');
  const count = plan.stages.reduce((sum, each) => sum + statementsOf(each), 0);
  const statements = count === 1 ? 'one statement' : `${count} statements`;
  const session = plan.stages.some(({ site }) => site.kind === 'session') ? ' in a session of its own' : '';
  const meets = plan.stages.some(({ site }) => site.kind === 'combine') ? ', met in the combine engine' : '';
  return `Runs in ${names}, ${statements}${session}${meets}`;
}

/** How many statements a source runs for a stage: those of a script come before its last. */
function statementsOf({ site, relation }: Stage): number {
  if (site.kind === 'combine') return 0;
  const before = nodesOfRelation(relation).map((each) => (each.node === 'text' ? (each.before?.length ?? 0) : 0));
  return before.reduce((sum, each) => sum + each, 1);
}
