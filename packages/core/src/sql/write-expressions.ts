import type { Expression, OrderBy, Window } from '../expressions';
import { fieldsUsed, nowValue, parameterKeysUsed } from '../expressions';
import type { FieldId, FieldType } from '../fields';
import { isOpen } from '../fields';
import type { Binding } from '../parameters';
import { dayOfMoment, resolveRelativeDay } from '../parameters';
import type { TextValue } from '../statements';
import type { Decimal, Value } from '../values';
import { formatDecimal, UTC, writeValue } from '../values';
import type { Dialect, Reach } from './dialect';
import { conjuncts } from './join';
import { absent, boundsOf, fitting, misfitting } from './misfits';

/** A value that travels beside a statement, in wire form; a list travels as one value. */
export interface BoundValue {
  readonly type: FieldType;
  readonly value: string | readonly string[];
  /** The parameter it was given for; a constant has none. */
  readonly parameter?: { readonly id: string; readonly end?: 'from' | 'until' };
}

/** The columns expressions are written over. */
export interface Columns {
  sql(id: FieldId): string;
  /** Whether it comes as it is from a source, and may hold what fits no type. */
  isRaw(id: FieldId): boolean;
}

/** Writes the expressions of one statement, and gathers the values that travel beside it. */
export class Expressions {
  readonly values: BoundValue[] = [];
  private readonly places = new Map<string, number>();
  private everyRow = false;

  constructor(
    private readonly dialect: Dialect,
    private readonly binding: Pick<Binding, 'bound' | 'now'>,
  ) {}

  /** What is calculated: values in it are read in every row, and say nothing of how many rows there will be. */
  inEveryRow(node: Expression, columns: Columns): string {
    this.everyRow = true;
    const sql = this.sql(node, columns);
    this.everyRow = false;
    return sql;
  }

  /**
   * A condition by which rows are kept. What is unknown keeps none, so that raw columns are compared as they are there, with
   * the limits that are not kept to by that beside: an index of theirs stays usable.
   */
  keeping(node: Expression, columns: Columns): string {
    const items = conjuncts(node);
    const isRaw = (side: Expression): side is Expression & { op: 'field' } => this.reachOf(side, columns) !== undefined;
    const asIs = (side: Expression) => (isRaw(side) ? columns.sql(side.id) : this.sql(side, columns));
    const bounds = items.map((each) => (each.op === 'compare' && each.operator !== '<>' ? boundsOf(each, isRaw) : undefined));
    const kept = new Set(bounds.flatMap((each) => each?.given ?? []).map(({ id, end }) => `${end} ${id}`));
    const written = items.flatMap((each, at): readonly string[] => {
      if (each.op === 'or') return [`(${each.items.map((item) => this.keeping(item, columns)).join(' or ')})`];
      if (each.op === 'in' || each.op === 'inList') return [this.sql(each, this.asItIs(each, columns))];
      const own = bounds[at];
      if (each.op !== 'compare' || !own) return [this.sql(each, columns)];
      const missing = own.missing.filter(({ id, end }) => !kept.has(`${end} ${id}`));
      const limits = missing.flatMap(({ id, type, end }) => {
        const limit = this.dialect.reach?.(type)?.[end];
        return limit === undefined ? [] : [`${columns.sql(id)} ${limit}`];
      });
      return [this.compare(each, asIs(each.left), asIs(each.right)), ...limits];
    });
    return written.length === 1 ? written.join('') : `(${written.join(' and ')})`;
  }

  /** What is looked for is within the reach of its type, so that a column alone is found among that as it is. */
  private asItIs(node: Expression & { op: 'in' | 'inList' }, columns: Columns): Columns {
    const { of } = node;
    const amongOthers = node.op === 'in' && node.items.some((each) => of.op === 'field' && fieldsUsed(each).includes(of.id));
    return of.op === 'field' && !amongOthers ? { ...columns, isRaw: (id) => id !== of.id && columns.isRaw(id) } : columns;
  }

  private reachOf(of: Expression, columns: Columns): Reach | undefined {
    return of.op === 'field' && columns.isRaw(of.id) ? this.dialect.reach?.(of.type) : undefined;
  }

  /** An expression over columns. A value that fits no type is null in it. */
  sql(node: Expression, columns: Columns): string {
    const sql = (of: Expression) => this.sql(of, columns);
    switch (node.op) {
      case 'literal':
        return this.literal(node.type, node.value);
      case 'field': {
        const reach = this.reachOf(node, columns);
        return reach ? fitting(columns.sql(node.id), reach) : columns.sql(node.id);
      }
      case 'misfit': {
        const reach = this.reachOf(node.of, columns);
        return reach ? misfitting(columns.sql(node.of.id), reach) : 'false';
      }
      case 'parameter':
        return this.parameter(node);
      case 'arithmetic':
        return this.dialect.arithmetic(node, sql(node.left), sql(node.right));
      case 'negate':
        return this.dialect.negate(node, sql(node.of));
      case 'widen':
        return this.dialect.widen(node, sql(node.of));
      case 'compare':
        return this.compare(node, sql(node.left), sql(node.right));
      case 'and':
      case 'or':
        return `(${node.items.map(sql).join(` ${node.op} `)})`;
      case 'not':
        return `(not ${sql(node.of)})`;
      case 'isNull': {
        const reach = this.reachOf(node.of, columns);
        return reach && node.of.op === 'field' ? absent(columns.sql(node.of.id), reach) : `(${sql(node.of)} is null)`;
      }
      case 'isTrue':
        return `(${sql(node.of)} is true)`;
      case 'in': {
        const key = this.keyWhere([node.of, ...node.items]);
        return `(${key(node.of, sql(node.of))} in (${node.items.map((each) => key(each, sql(each))).join(', ')}))`;
      }
      case 'inList':
        return `(${sql(node.of)} in (${this.list(node.id, node.listType)}))`;
      case 'like':
        return this.dialect.like(sql(node.of), sql(node.pattern), node.escape);
      case 'textMatch':
        return this.dialect.textMatch(node.how, sql(node.of), sql(node.part));
      case 'dayAfter':
        return this.dialect.dayAfter(sql(node.of));
      case 'now':
        return this.place(node.type, writeValue(node.type, nowValue(node, this.binding.now)), `now ${node.type.kind} ${node.zone ?? UTC}`);
      case 'relativeDay':
        return this.literal(node.type, resolveRelativeDay(node.day, dayOfMoment(this.binding.now, node.calendar), node.calendar) ?? null);
      case 'case':
        return `(case ${node.branches.map(({ when, then }) => `when ${sql(when)} then ${sql(then)}`).join(' ')} else ${sql(node.otherwise)} end)`;
      case 'coalesce':
        return `coalesce(${node.items.map(sql).join(', ')})`;
      case 'cast':
        return this.dialect.cast(node, sql(node.of));
      case 'call':
        return this.dialect.call(node, node.of.map(sql), (text) => this.place({ kind: 'text' }, text, `text ${text}`));
      case 'window':
        return this.dialect.window(node, node.of.map(sql), this.over(node, sql));
    }
  }

  /** A value in an analyst's text. */
  textValue({ as, value, parameter, end }: TextValue): string {
    if (value === null) return this.dialect.textValue(undefined, as);
    const key = `text ${as} ${parameter} ${end ?? ''}`;
    const of = { id: parameter, ...(end ? { end } : {}) };
    const index = this.places.get(key) ?? this.values.push({ type: { kind: 'text' }, value, parameter: of });
    this.places.set(key, index);
    return this.dialect.textValue(index, as);
  }

  private over({ partition, order, frame }: Window, sql: (of: Expression) => string): string {
    const keys = partition.length > 0 ? [`partition by ${partition.map(sql).join(', ')}`] : [];
    const rows = frame ? [`rows between ${bound(frame.from, 'preceding')} and ${bound(frame.until, 'following')}`] : [];
    return `(${[...keys, ...(order.length > 0 ? [`order by ${this.ordered(order, sql)}`] : []), ...rows].join(' ')})`;
  }

  /** What stands behind `order by`. */
  ordered(order: readonly OrderBy[], sql: (of: Expression) => string): string {
    const orders = order.map(({ of, descending, nullsFirst }) => {
      const key = of.type.kind === 'text' ? this.dialect.binary(sql(of)) : sql(of);
      // A constant in an order means a column's number to an engine, and orders nothing.
      return `${of.op === 'literal' ? `(${key}) + 0` : key}${descending ? ' desc' : ''} nulls ${nullsFirst ? 'first' : 'last'}`;
    });
    return orders.join(', ');
  }

  private compare(node: Expression & { op: 'compare' }, left: string, right: string): string {
    const key = this.keyWhere([node.left, node.right]);
    if (isOpen(node.left.type) || isOpen(node.right.type)) return `(${key(node.left, left)} ${node.operator} ${key(node.right, right)})`;
    const ordered = node.left.type.kind === 'text' && node.operator !== '=' && node.operator !== '<>';
    return ordered
      ? `(${this.dialect.binary(left)} ${node.operator} ${this.dialect.binary(right)})`
      : `(${left} ${node.operator} ${right})`;
  }

  /** How numbers are compared among which some have no fixed scale, and are no numbers of the engine: by texts that stand for them. */
  private keyWhere(nodes: readonly Expression[]): (node: Expression, sql: string) => string {
    const { openNumbers } = this.dialect;
    if (!openNumbers || nodes.every(({ type }) => !isOpen(type))) return (_node, sql) => sql;
    return (node, sql) => {
      if (isOpen(node.type) && node.op !== 'literal') return openNumbers.key(sql);
      const literal = node.op === 'literal' && node.value !== null ? `'${writeValue(node.type, node.value)}'` : undefined;
      return openNumbers.key(literal ?? `cast(${sql} as varchar)`);
    };
  }

  private literal(type: FieldType, value: Value): string {
    if (value === null) return `cast(null as ${this.dialect.typeName(type)})`;
    if (type.kind === 'yesno') return value === true ? 'true' : 'false';
    if (type.kind === 'whole' || type.kind === 'decimal') return numberText(value as Decimal);
    const written = writeValue(type, value);
    return this.place(type, written, `${type.kind} ${written}`);
  }

  private parameter(node: Expression & { op: 'parameter' }): string {
    const bound = this.binding.bound.get(node.id);
    const value = bound?.takes === 'one' ? bound.value : bound?.takes === 'range' && node.part ? bound[node.part] : undefined;
    if (value === undefined) throw new RangeError(`parameter ${node.id} has no value; blanks are applied before compiling`);
    if (value === null) return `cast(null as ${this.dialect.typeName(node.type)})`;
    const of = { id: node.id, ...(node.part ? { end: node.part } : {}) };
    return this.place(node.type, writeValue(node.type, value), `parameter ${parameterKeysUsed(node)[0]}`, of);
  }

  private list(id: string, type: FieldType): string {
    const bound = this.binding.bound.get(id);
    if (bound?.takes !== 'several') throw new RangeError(`parameter ${id} has no list; blanks are applied before compiling`);
    const value = bound.values.flatMap((each) => (each === null ? [] : [writeValue(type, each)]));
    this.values.push({ type, value, parameter: { id } });
    return this.dialect.list(this.values.length, type);
  }

  /** What is used twice reads the same place. */
  private place(type: FieldType, value: string, key: string, parameter?: BoundValue['parameter']): string {
    const index = this.places.get(key) ?? this.values.push({ type, value, ...(parameter ? { parameter } : {}) });
    this.places.set(key, index);
    return this.everyRow ? this.dialect.constant(index, type) : this.dialect.value(index, type);
  }
}

/** One end of a frame: rows before the current one are negative. */
function bound(rows: number | undefined, open: 'preceding' | 'following'): string {
  if (rows === undefined) return `unbounded ${open}`;
  return rows === 0 ? 'current row' : `${Math.abs(rows)} ${rows < 0 ? 'preceding' : 'following'}`;
}

/** Negative numbers are parenthesised, so that a sign before them does not become a comment. */
function numberText(value: Decimal): string {
  const digits = formatDecimal(value);
  return digits.startsWith('-') ? `(${digits})` : digits;
}
