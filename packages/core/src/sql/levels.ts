import type { Expression, OrderBy, Window } from '../expressions';
import { all, fieldsUsed, isNull, operandsOf, sizeOf, withOperands } from '../expressions';
import type { FieldId } from '../fields';
import { isDay, yesno } from '../fields';
import type { CalculatedColumn, Column, Relation } from './relation';
import { columnsOf } from './relation';

/** A calculated column, and where computing it fails: a condition that may use the column itself. */
export interface LevelledColumn extends CalculatedColumn {
  readonly failure?: Expression;
}

/** The column that says whether computing another one failed. */
export const failedColumn = (id: FieldId): Column => ({ id: `${id} failed`, name: `${id} failed`, type: yesno });

/**
 * Columns calculated on a relation, each of which may use the ones before it. What builds on one another becomes
 * levels. Values over other rows, and parts that are used several times, become columns of a lower level, which
 * are not handed on: engines compute the former in a select's list only, and the latter once instead of at every
 * place. With failures, a yes/no column for each column that can fail stands behind.
 */
export function calculated(input: Relation, columns: readonly LevelledColumn[], name: string | undefined): Relation {
  const interned = new Interned();
  const own = columns.map((column): LevelledColumn => {
    const expression = interned.of(column.expression);
    return column.failure ? { ...column, expression, failure: interned.of(column.failure) } : { ...column, expression };
  });
  const parts = new Parts(own);
  const made = own.flatMap((column): CalculatedColumn[] => {
    const value = { ...plain(column), expression: parts.lift(column.expression, true) };
    parts.stand(column.expression, column);
    if (!column.failure) return [...parts.taken(), value];
    const absent = isNull({ op: 'field', type: column.type, id: column.id });
    const failed = { ...failedColumn(column.id), expression: all(absent, parts.lift(column.failure, false)) };
    return [...parts.taken(), value, failed];
  });
  const relation = levelsOf(made).reduce((below: Relation, fields): Relation => ({ node: 'calculate', input: below, fields }), input);
  const outputColumns = columns.flatMap((column) => (column.failure ? [plain(column), failedColumn(column.id)] : [plain(column)]));
  const shown: Relation =
    made.length === outputColumns.length ? relation : { node: 'choose', input: relation, columns: [...columnsOf(input), ...outputColumns] };
  return name === undefined ? shown : { ...shown, name };
}

const plain = ({ id, name, type }: Column): Column => ({ id, name, type });

/** Conditions of more operations are computed as columns, so that what they share is computed once. */
const LONG = 300;

/** The relation with the parts of long conditions as columns behind its own, and the conditions reading them. */
export function shared(
  input: Relation,
  expressions: readonly Expression[],
): { readonly relation: Relation; readonly expressions: readonly Expression[] } {
  const known = new Map<Expression, number>();
  if (expressions.reduce((sum, each) => sum + sizeOf(each, known), 0) <= LONG) return { relation: input, expressions };
  const interned = new Interned();
  const own = expressions.map((each) => interned.of(each));
  const parts = new Parts(own.map((expression, index) => ({ id: `${index}`, name: '', type: expression.type, expression })));
  const lifted = own.map((each) => parts.lift(each, false));
  const levels = levelsOf(parts.taken());
  return {
    relation: levels.reduce((below: Relation, fields): Relation => ({ node: 'calculate', input: below, fields }), input),
    expressions: lifted,
  };
}

/** Columns that use only what stands below them, level by level. */
function levelsOf(columns: readonly CalculatedColumn[]): readonly (readonly CalculatedColumn[])[] {
  const levelOf = new Map<FieldId, number>();
  const levels: CalculatedColumn[][] = [];
  const waiting = new Map(columns.map((each) => [each.id, each]));
  const place = (column: CalculatedColumn): number => {
    const known = levelOf.get(column.id);
    if (known !== undefined) return known;
    const below = fieldsUsed(column.expression).flatMap((id) => waiting.get(id) ?? []);
    const level = below.reduce((most, each) => Math.max(most, place(each) + 1), 0);
    levelOf.set(column.id, level);
    (levels[level] ??= []).push(column);
    return level;
  };
  columns.forEach(place);
  return levels;
}

/** Parts with fewer operations are cheaper to compute again than to keep. */
const WORTH_KEEPING = 3;

const REPEATING: readonly string[] = [
  'upper',
  'lower',
  'joinText',
  'padZeros',
  'greatest',
  'least',
  'power',
  'sqrt',
  'extract',
  'shift',
  'daysBetween',
  'dayOf',
];

/** Whether dialects write the operands of a node several times, to ask about them before they use them. */
function repeats(node: Expression): boolean {
  switch (node.op) {
    case 'arithmetic':
      return node.type.kind === 'float';
    case 'cast':
      return node.of.type.kind === 'text' || node.of.type.kind === 'float' || isDay(node.of.type);
    case 'call':
      return REPEATING.includes(node.name) || (node.name === 'round' && node.type.kind === 'float');
    default:
      return false;
  }
}

/** Expressions in which what is written alike is one and the same object. */
class Interned {
  private readonly known = new Map<Expression, Expression>();
  private readonly alike = new Map<string, Expression>();
  private readonly numbers = new Map<Expression, number>();

  of(node: Expression): Expression {
    const known = this.known.get(node);
    if (known) return known;
    const operands = operandsOf(node).map((each) => this.of(each));
    const key = `${shapeOf(node)} ${operands.map((each) => this.numberOf(each)).join(' ')}`;
    const own = this.alike.get(key) ?? withOperands(node, operands);
    this.alike.set(key, own);
    this.known.set(node, own);
    return own;
  }

  private numberOf(node: Expression): number {
    const number = this.numbers.get(node) ?? this.numbers.size;
    this.numbers.set(node, number);
    return number;
  }
}

/** Parts of expressions that become columns of their own, each once. */
class Parts {
  private readonly uses = new Map<Expression, number>();
  private readonly repeated = new Set<Expression>();
  private readonly sizes = new Map<Expression, number>();
  private readonly lifted = new Map<Expression, Expression>();
  private readonly standing = new Set<Expression>();
  private made: CalculatedColumn[] = [];
  private count = 0;
  private readonly owner: string;

  constructor(columns: readonly LevelledColumn[]) {
    // Names the parts of different steps differently, as the rows of one may pass through another.
    this.owner = columns[0]?.id ?? '';
    for (const { expression, failure } of columns) {
      this.countUses(expression);
      if (failure) this.countUses(failure);
    }
  }

  /** The columns made since the last call. */
  taken(): readonly CalculatedColumn[] {
    const { made } = this;
    this.made = [];
    return made;
  }

  /**
   * From here on the expression is read from a column: the first one that has it, as others that read it from there would
   * stand on one another, level by level. What is a column already is read where it is.
   */
  stand(expression: Expression, { id, type }: Column): void {
    if (this.standing.has(expression) || operandsOf(expression).length === 0) return;
    this.standing.add(expression);
    this.lifted.set(expression, { op: 'field', type, id });
  }

  lift(node: Expression, root: boolean): Expression {
    const known = this.lifted.get(node);
    if (known) return known;
    const result = node.op === 'window' && !root ? this.window(node) : this.rest(node, root);
    this.lifted.set(node, result);
    return result;
  }

  private rest(node: Expression, root: boolean): Expression {
    const operands = operandsOf(node);
    if (operands.length === 0) return node;
    const inner = withOperands(
      node,
      operands.map((each) => this.lift(each, false)),
    );
    const shared = this.repeated.has(node) || ((this.uses.get(node) ?? 0) > 1 && sizeOf(node, this.sizes) >= WORTH_KEEPING);
    return shared && !root && fieldsUsed(inner).length > 0 ? this.column(inner, 'part') : inner;
  }

  private window(node: Window): Expression {
    const inner = withOperands(
      node,
      operandsOf(node).map((each) => this.lift(each, false)),
    );
    return this.column(inner, 'other rows');
  }

  private column(expression: Expression, word: string): Expression {
    const id = `${word} ${++this.count} of ${this.owner}`.slice(0, 60);
    this.made.push({ id, name: id, type: expression.type, expression });
    return { op: 'field', type: expression.type, id };
  }

  private countUses(node: Expression): void {
    const seen = this.uses.get(node) ?? 0;
    this.uses.set(node, seen + 1);
    if (seen > 0) return;
    const operands = operandsOf(node);
    operands.forEach((each) => this.countUses(each));
    // How far a day is moved is looked at where it is written: parts of a date need no questions.
    const asked = node.op === 'call' && node.name === 'shift' ? operands.slice(0, 1) : operands;
    if (repeats(node)) asked.forEach((each) => this.repeated.add(each));
  }
}

/** What a node says besides its operands: two of one shape over the same operands are the same. */
function shapeOf(node: Expression): string {
  return Object.entries(node)
    .map(([key, value]: [string, unknown]) => {
      if (typeof value !== 'object' || value === null) return `${key} ${String(value)} ${typeof value}`;
      if (Array.isArray(value))
        return `${key} ${value.length}${key === 'order' ? value.map(({ descending, nullsFirst }: OrderBy) => `${descending}${nullsFirst}`).join() : ''}`;
      if ('op' in value) return key;
      return `${key} ${written(value)}`;
    })
    .join('\n');
}

/** Types and the like are few objects that stand in many nodes. */
const texts = new WeakMap<object, string>();

function written(value: object): string {
  const known = texts.get(value) ?? JSON.stringify(value, (_key, each: unknown) => (typeof each === 'bigint' ? `${each}n` : each));
  texts.set(value, known);
  return known;
}

/**
 * Whether expressions use something calculated below them. Engines that merge selects would copy it into every
 * place that uses it, and the copies into those above, which grows without bounds.
 */
export function buildsOnCalculated(relation: Relation & { node: 'calculate' }): boolean {
  return calculatesAny(relation.input, new Set(relation.fields.flatMap((field) => fieldsUsed(field.expression))));
}

function calculatesAny(relation: Relation, wanted: ReadonlySet<FieldId>): boolean {
  switch (relation.node) {
    case 'calculate':
      return relation.fields.some((each) => wanted.has(each.id)) || calculatesAny(relation.input, wanted);
    case 'filter':
    case 'choose':
      return calculatesAny(relation.input, wanted);
    case 'join':
      return calculatesAny(relation.left, wanted) || calculatesAny(relation.right, wanted);
    default:
      return false;
  }
}
