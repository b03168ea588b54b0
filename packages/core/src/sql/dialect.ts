import type { Expression } from '../expressions';
import { digitsOf, mayOverflow, naturalScale, nodesOf } from '../expressions';
import type { FieldType } from '../fields';
import type { TableColumn } from './relation';

/** Something a dialect may or may not be able to generate with Cendra's meaning. */
export const CAPABILITIES = [
  'comparison and logic',
  'text match by code point',
  'sums within 38 digits',
  'sums beyond 38 digits',
  'products within 38 digits',
  'products beyond 38 digits',
  'exact division',
  'floating arithmetic',
  'numbers without a fixed scale',
] as const;
export type Capability = (typeof CAPABILITIES)[number];

/** The pieces of SQL in which engines differ. Everything else is made once, in compile.ts. */
export interface Dialect {
  readonly name: 'postgresql' | 'duckdb';
  readonly capabilities: ReadonlySet<Capability>;
  identifier(name: string): string;
  /** Longest name of a common table expression, in bytes. */
  readonly nameBytes: number;
  typeName(type: FieldType): string;
  /** Where bound value number `index` (from 1) is read. */
  value(index: number, type: FieldType): string;
  /** A one-column select giving the items of a bound list. */
  list(index: number, type: FieldType): string;
  /** A source's column as a field: the plain column wherever that has the same meaning, so its index stays usable. */
  readColumn(column: TableColumn, sql: string): string;
  /** A landed handle as something to select from. */
  landed(handle: string): string;
  /** A text expression in an order by code point. */
  binary(sql: string): string;
  arithmetic(node: Expression & { op: 'arithmetic' }, left: string, right: string): string;
  negate(node: Expression & { op: 'negate' }, of: string): string;
  widen(node: Expression & { op: 'widen' }, of: string): string;
  like(of: string, pattern: string, escape: string | undefined): string;
  textMatch(how: 'contains' | 'begins' | 'ends', of: string, part: string): string;
  dayAfter(of: string): string;
}

/** What an expression needs of the engine that computes it. */
export function needsOf(root: Expression): ReadonlySet<Capability> {
  return new Set(nodesOf(root).map(needOf));
}

function needOf(node: Expression): Capability {
  if (node.op === 'textMatch' || node.op === 'like') return 'text match by code point';
  if (node.op !== 'arithmetic')
    return node.type.kind === 'decimal' && node.type.open ? 'numbers without a fixed scale' : 'comparison and logic';
  if (node.type.kind === 'float') return 'floating arithmetic';
  if (node.operator === '/') return 'exact division';
  const cut = node.type.kind === 'decimal' && node.type.scale < naturalScale(node.operator, node.left.type, node.right.type);
  const wide = cut || mayOverflow(node.operator, node.left.type, node.right.type);
  if (node.operator !== '*') return wide ? 'sums beyond 38 digits' : 'sums within 38 digits';
  const [a, b] = [digitsOf(node.left.type), digitsOf(node.right.type)];
  return a && b && a.precision + b.precision <= 38 ? 'products within 38 digits' : 'products beyond 38 digits';
}

/** The first thing an expression needs that the dialect does not claim. */
export function lacking(dialect: Dialect, root: Expression): Capability | undefined {
  return [...needsOf(root)].find((need) => !dialect.capabilities.has(need));
}
