import type { Call, Expression, Window } from '../expressions';
import { digitsOf, mayOverflow, naturalScale, nodesOf } from '../expressions';
import type { FieldType } from '../fields';
import { isOpen } from '../fields';
import { equalPairs } from './join';
import type { Relation, TableColumn } from './relation';

/** Something a dialect may or may not be able to generate with Cendra's meaning. */
export const CAPABILITIES = [
  'comparison and logic',
  'text match by code point',
  'sums within 38 digits',
  'sums that may pass 38 digits',
  'sums beyond 38 digits',
  'products within 38 digits',
  'products beyond 38 digits',
  'quotients within 37 digits',
  'quotients beyond 37 digits',
  'floating arithmetic',
  'numbers without a fixed scale',
  'texts',
  'numbers of one operand',
  'rounding up beyond 38 digits',
  'remainders within 38 digits',
  'remainders beyond 38 digits',
  'calendar',
  'conversions',
  'conversions beyond 38 digits',
  'values over other rows',
  'sums over rows within 28 digits',
  'sums over rows beyond 28 digits',
  'full joins',
  'full joins on ranges',
  'totals by levels',
] as const;
export type Capability = (typeof CAPABILITIES)[number];

/** Binds a text that belongs to how a piece is written, and gives what reads it; the same text is bound once. */
export type BindText = (text: string) => string;

/** What a column's values have to be to fit its type, each written behind the column. */
export interface Reach {
  readonly from?: string;
  readonly until?: string;
}

/** The pieces of SQL in which engines differ. Everything else is made once, in compile.ts. */
export interface Dialect {
  readonly name: 'postgresql' | 'duckdb';
  readonly capabilities: ReadonlySet<Capability>;
  identifier(name: string): string;
  /** Longest name of a common table expression, in bytes. */
  readonly nameBytes: number;
  /** Behind a select: keeps its expressions from being copied into every place that uses them. */
  readonly fence: string;
  /** Behind `as` of a common table expression: each place that uses it reads it for itself. */
  readonly readAnew: string;
  typeName(type: FieldType): string;
  /** Where bound value number `index` (from 1) is read. */
  value(index: number, type: FieldType): string;
  /** The same for a place that is read in every row: looked up once, which tells the engine's planner less. */
  constant(index: number, type: FieldType): string;
  /** Where bound value number `index` is read in an analyst's text, as one of the source's own types; null without an index. */
  textValue(index: number | undefined, sourceType: string): string;
  /** A one-column select giving the items of a bound list. */
  list(index: number, type: FieldType): string;
  /** A source's column as a field: the plain column wherever that has the same meaning, so its index stays usable. */
  readColumn(column: TableColumn, sql: string): string;
  /** What a source's column of a type may hold besides values of it, where it may: what lies within is one. */
  reach?(type: FieldType): Reach | undefined;
  /** A landed handle as something to select from. */
  landed(handle: string): string;
  /** A text expression in an order by code point. */
  binary(sql: string): string;
  arithmetic(node: Expression & { op: 'arithmetic' }, left: string, right: string): string;
  negate(node: Expression & { op: 'negate' }, of: string): string;
  widen(node: Expression & { op: 'widen' }, of: string): string;
  cast(node: Expression & { op: 'cast' }, of: string): string;
  call(node: Call, of: readonly string[], bind: BindText): string;
  /** The function of a window over what `over` says; it stands by itself in a select's list. */
  window(node: Window, of: readonly string[], over: string): string;
  /**
   * The sum of a column as a value of `type`, with what restricts its rows behind it. Where it does
   * not fit it is null, or the statement fails where an engine has no way to tell.
   */
  sum(type: FieldType, of: FieldType, sql: string, among: string): string;
  /** Where numbers without a fixed scale are no numbers of the engine: how they are compared all the same. */
  readonly openNumbers?: {
    /** A text that is the same for equal ones and stands in their order. */
    key(sql: string): string;
    /** Their value: the same for equal ones. */
    value(sql: string): string;
    /** The least or the greatest of a group, with what restricts its rows behind it. */
    extreme(which: 'least' | 'greatest', sql: string, among: string): string;
  };
  like(of: string, pattern: string, escape: string | undefined): string;
  textMatch(how: 'contains' | 'begins' | 'ends', of: string, part: string): string;
  dayAfter(of: string): string;
}

/** What an expression needs of the engine that computes it. */
export function needsOf(root: Expression): ReadonlySet<Capability> {
  return new Set(nodesOf(root).flatMap((node) => (isOpen(node.type) ? ['numbers without a fixed scale', needOf(node)] : [needOf(node)])));
}

function needOf(node: Expression): Capability {
  switch (node.op) {
    case 'textMatch':
    case 'like':
      return 'text match by code point';
    case 'arithmetic':
      return arithmeticNeed(node);
    case 'call':
      return callNeed(node);
    case 'cast':
      return (digitsOf(node.of.type)?.precision ?? 0) > 37 || (digitsOf(node.type)?.precision ?? 0) > 37
        ? 'conversions beyond 38 digits'
        : 'conversions';
    case 'window':
      if (node.name !== 'sum' || node.type.kind === 'float') return 'values over other rows';
      return (digitsOf(node.of[0]?.type ?? node.type)?.precision ?? 38) <= 28
        ? 'sums over rows within 28 digits'
        : 'sums over rows beyond 28 digits';
    default:
      return 'comparison and logic';
  }
}

function arithmeticNeed(node: Expression & { op: 'arithmetic' }): Capability {
  if (node.type.kind === 'float') return 'floating arithmetic';
  const [a, b] = [digitsOf(node.left.type), digitsOf(node.right.type)];
  if (node.operator === '/') {
    const scale = node.type.kind === 'decimal' ? node.type.scale : 0;
    const shift = a && b ? scale - a.scale + b.scale : -1;
    const fits = a && b && shift >= 0 && (fitsAtOnce(a, b, shift) || fitsInTwo(b, shift));
    return fits ? 'quotients within 37 digits' : 'quotients beyond 37 digits';
  }
  const cut = node.type.kind === 'decimal' && node.type.scale < naturalScale(node.operator, node.left.type, node.right.type);
  const wide = cut || mayOverflow(node.operator, node.left.type, node.right.type);
  if (node.operator !== '*') return wide ? wideSumNeed(node, cut) : 'sums within 38 digits';
  const digits = writtenDigits(node.left) + writtenDigits(node.right);
  return a && b && digits <= 38 ? 'products within 38 digits' : 'products beyond 38 digits';
}

/** Where both sides have room for the digits behind the point, only the sum itself may pass what there is. */
function wideSumNeed({ left, right, type }: Expression & { op: 'arithmetic' }, cut: boolean): Capability {
  const scale = type.kind === 'decimal' ? type.scale : 0;
  const roomy = [left, right].every((side) => {
    const digits = digitsOf(side.type);
    return digits !== undefined && digits.precision - digits.scale + scale <= 38;
  });
  return roomy && !cut ? 'sums that may pass 38 digits' : 'sums beyond 38 digits';
}

/** How many digits a number has: of a whole number that is written out, its own. */
export function writtenDigits(node: Expression): number {
  const known = node.op === 'literal' && node.type.kind === 'whole' && typeof node.value === 'object' && node.value !== null;
  return known ? String(node.value.digits).replace('-', '').length : (digitsOf(node.type)?.precision ?? 38);
}

interface Digits {
  readonly precision: number;
}

/** Whether the dividend with its scale raised stays within 37 digits. */
export const fitsAtOnce = (a: Digits, b: Digits, shift: number): boolean => a.precision + shift <= 37 && b.precision <= 37;

/** Whether what is left of a whole division does, whatever the dividend: an average of long sums by a count. */
export const fitsInTwo = (b: Digits, shift: number): boolean => b.precision + shift <= 36;

function callNeed({ name, of, type }: Call): Capability {
  switch (name) {
    case 'mod': {
      const [a, b] = of.map((each) => digitsOf(each.type));
      const wholeDigits = a && b ? Math.max(a.precision - a.scale, b.precision - b.scale) : 38;
      const scale = a && b ? Math.max(a.scale, b.scale) : 38;
      return wholeDigits + scale <= 38 ? 'remainders within 38 digits' : 'remainders beyond 38 digits';
    }
    case 'abs':
    case 'floor':
    case 'ceiling':
    case 'power':
    case 'sqrt':
    case 'greatest':
    case 'least':
    case 'addSmall':
    case 'subtractSmall':
    case 'multiplySmall':
      return 'numbers of one operand';
    case 'round':
      return (digitsOf(type)?.precision ?? 0) >= 38 ? 'rounding up beyond 38 digits' : 'numbers of one operand';
    case 'extract':
    case 'shift':
    case 'daysBetween':
    case 'dayOf':
      return 'calendar';
    default:
      return 'texts';
  }
}

/** What a node itself needs besides what its expressions do. */
export function needOfNode(relation: Relation): Capability | undefined {
  if (relation.node === 'join' && relation.keeps === 'both')
    return equalPairs(relation).others.length === 0 ? 'full joins' : 'full joins on ranges';
  return relation.node === 'group' && relation.levels !== undefined ? 'totals by levels' : undefined;
}

/** The first thing an expression needs that the dialect does not claim. */
export function lacking(dialect: Dialect, root: Expression): Capability | undefined {
  return [...needsOf(root)].find((need) => !dialect.capabilities.has(need));
}
