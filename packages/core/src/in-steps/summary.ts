import { linkReferences } from '../expressions';
import type { Field } from '../fields';
import { fieldById, freeName } from '../fields';
import type { SyntaxTree } from '../statements';
import { listOf, membersOf, namesOf } from '../statements';
import type { SummaryAggregate, SummaryKey, SummaryValue } from '../steps';
import { summariseStep } from '../steps';
import { AGGREGATES } from './calls';
import type { Members } from './speech';
import { say } from './speech';
import { stringOf, wholeOf } from './literals';
import type { Meaning } from './meaning';
import { understood } from './meaning';
import { nameOfOutput, shapeOf, stands } from './outputs';
import type { RowsOf, Saying } from './saying';
import { unsaid } from './unsaid';
import { orderOf } from './windows';

/** What rows are grouped by and what of the select looks at groups. */
export interface Grouped {
  readonly keys: readonly SyntaxTree[];
  /** Targets, conditions of groups and orders: everything that stands behind the grouping. */
  readonly behind: readonly SyntaxTree[];
  /** Names the text gives to targets, by their shapes. */
  readonly called: ReadonlyMap<string, string>;
}

/** Rows by group, and which of their fields stands for a key or a figure of the text. */
export interface SaidGroups {
  readonly rows: RowsOf;
  instead(tree: SyntaxTree): Field | undefined;
}

export const isAggregate = (kind: string, of: Members): boolean =>
  kind === 'FuncCall' && of.over === undefined && (of.agg_star === true || AGGREGATES.includes(namesOf(of.funcname).at(-1) ?? ''));

/** Whether a select tells of groups: it says so, or a figure of many rows stands in it. */
export const isGrouped = (select: Members): boolean =>
  select.groupClause !== undefined || select.havingClause !== undefined || stands(select.targetList, isAggregate);

/** The summary of a select: a key for each expression grouped by, a value for each figure that stands behind it. */
export function sayGroups(saying: Saying, rows: RowsOf, { keys, behind, called }: Grouped, meaning: Meaning): SaidGroups {
  const { mint } = saying.of;
  const names = new Set<string>();
  const nameFor = (wanted: string) => {
    const name = freeName(wanted, names);
    names.add(name);
    return name;
  };
  const ids = new Map<string, string>();
  const ownKeys: SummaryKey[] = [];
  const addKey = (tree: SyntaxTree) => {
    const shape = shapeOf(tree);
    if (ids.has(shape)) return;
    const said = say(tree, meaning);
    understood(said, meaning.scope, placeOf(tree));
    const key = {
      id: mint(),
      name: nameFor(called.get(shape) ?? (nameOfOutput(tree) || 'group')),
      expression: linkReferences(said.text, meaning.scope),
    };
    ids.set(shape, key.id);
    ownKeys.push(key);
  };
  keys.forEach(addKey);
  const values: SummaryValue[] = [];
  for (const tree of behind) collect(tree);
  function collect(tree: SyntaxTree): void {
    if (typeof tree !== 'object' || tree === null || ids.has(shapeOf(tree))) return;
    const call = membersOf(tree, 'FuncCall');
    if (call && isAggregate('FuncCall', call)) {
      const value = figureOf(call, meaning);
      const shape = shapeOf(tree);
      const id = mint();
      values.push({ ...value, id, name: nameFor(called.get(shape) ?? (nameOfFigure(call) || 'figure')) });
      ids.set(shape, id);
      return;
    }
    // A column of a table whose key is grouped by has one value in a group, and is a key as well.
    if (membersOf(tree, 'ColumnRef')) return addKey(tree);
    for (const each of Object.values(tree)) collect(each as SyntaxTree);
  }
  const given = saying.put({ ...summariseStep(mint, rows.step), keys: ownKeys, values });
  return {
    rows: given,
    instead: (tree) => {
      const id = ids.get(shapeOf(tree));
      return id === undefined ? undefined : fieldById(given.arriving.schema, id);
    },
  };
}

const placeOf = (tree: SyntaxTree) => {
  const [of] = typeof tree === 'object' && tree !== null ? Object.values(tree) : [];
  return typeof of === 'object' && of !== null ? (of as Members).location : undefined;
};

/** As `sum_kilos`: its figure and what it is of. */
function nameOfFigure(call: Members): string {
  const of = nameOfOutput(listOf(call.args)[0] ?? listOf(call.agg_order).map((each) => membersOf(each, 'SortBy')?.node ?? null)[0]);
  const name = namesOf(call.funcname).at(-1) ?? '';
  if (call.agg_star === true) return 'rows';
  return of === '' ? name : `${name}_${of}`;
}

const FIGURES: Readonly<Record<string, SummaryAggregate>> = { count: 'count', sum: 'sum', avg: 'average', min: 'least', max: 'greatest' };

const NOTHING = { text: '', refs: [] } as const;

/** A figure of many rows as a value of a summary. */
function figureOf(call: Members, meaning: Meaning): Omit<SummaryValue, 'id' | 'name'> {
  const name = namesOf(call.funcname).at(-1) ?? '';
  const refuse = () => unsaid(`${name} called like this is no figure of a summary.`, call.location);
  const linked = (tree: SyntaxTree | undefined) => {
    const said = say(tree, meaning);
    understood(said, meaning.scope, call.location);
    return linkReferences(said.text, meaning.scope);
  };
  const among = call.agg_filter === undefined ? NOTHING : linked(call.agg_filter);
  const [of, second, third] = listOf(call.args);
  const order = listOf(call.agg_order).map(orderOf);
  const distinct = call.agg_distinct === true;
  const plain = { among, order: NOTHING };
  if (name === 'count' && call.agg_star === true) return { ...plain, aggregate: 'rows', expression: NOTHING };
  if (name === 'percentile_cont' && order.length === 1 && call.agg_within_group === true && !distinct && isHalf(of))
    return order[0]?.descending ? refuse() : { ...plain, aggregate: 'median', expression: linked(order[0]?.node) };
  if (name === 'string_agg' && !distinct && third === undefined) {
    const separator = stringOf(second);
    const [by, other] = order;
    if (separator === undefined || separator.length > 20 || other || by?.descending || by?.nullsFirst) return refuse();
    return {
      among,
      aggregate: 'joined',
      expression: linked(of),
      order: by ? linked(by.node) : NOTHING,
      ...(separator === ', ' ? {} : { separator }),
    };
  }
  const aggregate = distinct ? (name === 'count' ? 'distinct count' : undefined) : FIGURES[name];
  if (aggregate === undefined || of === undefined || second !== undefined || order.length > 0) return refuse();
  return { ...plain, aggregate, expression: linked(of) };
}

const isHalf = (tree: SyntaxTree | undefined) => {
  const value = membersOf(tree, 'A_Const')?.fval;
  return typeof value === 'object' && value !== null && Number((value as { readonly fval?: string }).fval) === 0.5;
};

/** What is grouped by: an expression, the place of a target, or its alias where no column is called so. */
export function groupKeys(
  select: Members,
  targets: readonly { readonly name: string; readonly tree: SyntaxTree }[],
  isColumn: (name: string) => boolean,
): readonly SyntaxTree[] {
  if (select.groupDistinct === true) return unsaid('`group by distinct` has no step.');
  return listOf(select.groupClause).map((tree) => {
    if (membersOf(tree, 'GroupingSet'))
      return unsaid('Groups of several kinds at once have no step.', membersOf(tree, 'GroupingSet')?.location);
    const place = wholeOf(tree);
    if (place !== undefined) return targets[place - 1]?.tree ?? unsaid(`There is no target number ${place}.`);
    const names = namesOf(membersOf(tree, 'ColumnRef')?.fields);
    const [name] = names;
    const alias = names.length === 1 && name !== undefined && !isColumn(name) ? targets.find((each) => each.name === name) : undefined;
    return alias?.tree ?? tree;
  });
}
