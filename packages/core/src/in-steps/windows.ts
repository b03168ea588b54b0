import type { SyntaxTree } from '../statements';
import { listOf, membersOf } from '../statements';
import type { Members } from './speech';
import { say } from './speech';
import { wholeOf } from './literals';
import type { Meaning } from './meaning';
import type { Said } from './said';
import { one } from './said';
import { unsaid } from './unsaid';

const WINDOWED = ['row_number', 'rank', 'dense_rank', 'lag', 'lead', 'first_value', 'sum', 'avg', 'count', 'min', 'max'];

/** Bits of a frame, as `WindowDef` has them (PostgreSQL, parsenodes.h). */
const FRAME = {
  written: 0x1,
  rows: 0x4,
  groups: 0x8,
  fromFirst: 0x20,
  toLast: 0x100,
  fromCurrent: 0x200,
  toCurrent: 0x400,
  fromBefore: 0x800,
  toBefore: 0x1000,
  fromBehind: 0x2000,
  toBehind: 0x4000,
  excluding: 0x38000,
} as const;

/** A value over other rows, in the order and frame its source would take. */
export function saidWindow(name: string, of: Members, meaning: Meaning): Said {
  if (!WINDOWED.includes(name)) return unsaid(`${name} over other rows has no counterpart.`, of.location);
  const written = membersOf({ WindowDef: of.over ?? null }, 'WindowDef') ?? {};
  const named = typeof written.name === 'string' ? written.name : typeof written.refname === 'string' ? written.refname : undefined;
  const base = named === undefined ? {} : (meaning.windows.get(named) ?? unsaid(`There is no window ${named}.`, of.location));
  const { partitionClause, orderClause } = { ...base, ...written };
  const frame = typeof written.name === 'string' ? base : written;
  const args =
    of.agg_star === true
      ? '*'
      : listOf(of.args)
          .map((each) => say(each, meaning).text)
          .join(', ');
  const partition = listOf(partitionClause).map((each) => say(each, meaning).text);
  const order = listOf(orderClause).map((each) => saidOrder(each, meaning));
  const parts = [
    ...(partition.length > 0 ? [`partition by ${partition.join(', ')}`] : []),
    ...(order.length > 0 ? [`order by ${order.join(', ')}`] : []),
    ...frameOf(frame, order.length > 0),
  ];
  return one(`${name}(${args}) over (${parts.join(' ')})`);
}

/** Greatest first has nulls first there, and last here. */
function saidOrder(tree: SyntaxTree, meaning: Meaning): string {
  const { node, descending, nullsFirst } = orderOf(tree);
  return `${say(node, meaning).text}${descending ? ' desc' : ''}${nullsFirst ? ' nulls first' : ''}`;
}

export interface OrderedBy {
  readonly node: SyntaxTree;
  readonly descending: boolean;
  readonly nullsFirst: boolean;
}

/** One part of an order, with where nulls come as its source has it. */
export function orderOf(tree: SyntaxTree): OrderedBy {
  const of = membersOf(tree, 'SortBy') ?? {};
  if (of.sortby_dir === 'SORTBY_USING') unsaid('An order by an operator has no counterpart.', of.location);
  const descending = of.sortby_dir === 'SORTBY_DESC';
  const nullsFirst = of.sortby_nulls === 'SORTBY_NULLS_FIRST' || (of.sortby_nulls === 'SORTBY_NULLS_DEFAULT' && descending);
  return { node: of.node ?? null, descending, nullsFirst };
}

function frameOf({ frameOptions, startOffset, endOffset, location }: Members, ordered: boolean): readonly string[] {
  const bits = typeof frameOptions === 'number' ? frameOptions : 0;
  const has = (bit: number) => (bits & bit) !== 0;
  if (!has(FRAME.written)) return [];
  if (has(FRAME.excluding) || has(FRAME.groups)) return unsaid('This frame has no counterpart.', location);
  const whole = has(FRAME.fromFirst) && has(FRAME.toLast);
  if (!has(FRAME.rows)) {
    if (has(FRAME.fromFirst) && has(FRAME.toCurrent)) return [];
    return whole && !ordered ? [] : unsaid('A frame by values has no counterpart.', location);
  }
  const offset = (tree: SyntaxTree | undefined) => String(wholeOf(tree) ?? unsaid('The frame’s length is no number.', location));
  const from = has(FRAME.fromFirst)
    ? 'unbounded preceding'
    : has(FRAME.fromCurrent)
      ? 'current row'
      : `${offset(startOffset)} ${has(FRAME.fromBefore) ? 'preceding' : 'following'}`;
  const to = has(FRAME.toLast)
    ? 'unbounded following'
    : has(FRAME.toCurrent)
      ? 'current row'
      : `${offset(endOffset)} ${has(FRAME.toBefore) ? 'preceding' : 'following'}`;
  return [`rows between ${from} and ${to}`];
}
