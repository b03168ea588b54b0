import type { Expression } from '../expressions';
import { fieldsUsed, inType, textLiteral } from '../expressions';
import type { FieldId } from '../fields';
import { isOpen } from '../fields';
import type { Binding } from '../parameters';
import type { TextPart } from '../statements';
import type { Dialect } from './dialect';
import type { Script } from './compile-script';
import { compileScript } from './compile-script';
import { aliases, cutBytes } from './names';
import type { Column, GivenColumn, MeasureColumn, Relation, TableColumn } from './relation';
import { buildsOnCalculated } from './levels';
import { rolledUp } from './roll-up';
import { columnsOf, keptOf, nodesOfRelation, usesOfNodes } from './relation';
import { rawColumns } from './misfits';
import type { BoundValue, Columns } from './write-expressions';
import { Expressions } from './write-expressions';

/** One statement for one engine. `values[n-1]` is what place n reads. */
export interface Statement {
  readonly text: string;
  readonly values: readonly BoundValue[];
  readonly columns: readonly Column[];
  /** Texts of analysts’ in it, where there are any, each as it has to be looked at before the statement runs. */
  readonly texts?: readonly TextWithin[];
  /** The script in whose session it runs. */
  readonly script?: Script;
}

/** A text that stands in a statement, by itself: `$1`, `$2` … in the place of values, each with the type it is read as. */
export interface TextWithin {
  readonly step: string;
  readonly text: string;
  readonly given: readonly GivenColumn[];
}

/**
 * A relation as one statement: each named step is a common table expression, so the text reads in the
 * order of the trail. Values are never in the text, except numbers and yes/no in canonical form.
 */
export function compile(relation: Relation, dialect: Dialect, binding: Pick<Binding, 'bound' | 'now'>): Statement {
  return new Compiler(dialect, new Expressions(dialect, binding), binding).statement(relation);
}

/** Rows to select from, and how their columns are written there: each with the node it comes from before it. */
interface Compiled {
  /** What stands behind `from`. */
  readonly from: string;
  readonly columns: ReadonlyMap<FieldId, string>;
  /** Those that come as they are from a source. */
  readonly raw: ReadonlySet<FieldId>;
}

/** A node written once as a common table expression, under this name. */
interface Written {
  readonly name: string;
  readonly own: ReadonlyMap<FieldId, string>;
}

/** Writes selects; what stands in them is written by `Expressions`. */
class Compiler {
  private readonly tables: string[] = [];
  private readonly texts: TextWithin[] = [];
  private script: Script | undefined;
  private readonly names = new Set<string>();
  private readonly written = new Map<Relation, Written>();
  private uses: ReadonlyMap<Relation, number> = new Map();

  constructor(
    private readonly dialect: Dialect,
    private readonly expressions: Expressions,
    private readonly binding: Pick<Binding, 'bound' | 'now'>,
  ) {}

  statement(relation: Relation): Statement {
    this.uses = usesOfNodes(relation);
    // A table expression of the name of landed rows would hide them.
    for (const each of nodesOfRelation(relation)) if (each.node === 'landed') this.names.add(each.handle);
    const select = this.select(relation);
    const head = this.tables.length > 0 ? `with ${this.tables.join(',\n')}\n` : '';
    return {
      text: head + select,
      values: this.expressions.values,
      columns: columnsOf(relation),
      ...(this.texts.length > 0 ? { texts: this.texts } : {}),
      ...(this.script ? { script: this.script } : {}),
    };
  }

  /** The relation as a select; its inputs become common table expressions before it. */
  private select(relation: Relation): string {
    const own = aliases(columnsOf(relation));
    switch (relation.node) {
      case 'table': {
        const { schema, table } = relation;
        const list = relation.columns.map((column) => this.tableColumn(table, column, own));
        return `select ${listed(list)} from ${this.dialect.identifier(schema)}.${this.dialect.identifier(table)}`;
      }
      case 'text':
        return this.text(relation, own);
      case 'landed': {
        const from = this.dialect.landed(relation.handle);
        return `select ${this.listOf(relation.columns, own, ({ id }) => `${from}.${this.dialect.identifier(id)}`)} from ${from}`;
      }
      case 'numbers': {
        const number = `cast(numbers.number as ${this.dialect.typeName(relation.column.type)})`;
        return `select ${this.as(number, own, relation.column.id)} from generate_series(1, ${relation.count}) as numbers(number)`;
      }
      case 'filter': {
        const input = this.input(relation.input);
        return `select ${this.chosen(relation, input, own)} from ${input.from} where ${this.expressions.keeping(relation.condition, this.over(input))}`;
      }
      case 'choose': {
        const input = this.input(relation.input);
        return `select ${this.chosen(relation, input, own)} from ${input.from}`;
      }
      case 'calculate': {
        const fenced = buildsOnCalculated(relation) || this.readsConverted(relation);
        const input = this.input(relation.input, fenced ? this.dialect.fence : '');
        const kept = keptOf(relation).map((column) => this.as(this.column(input, column.id), own, column.id));
        const made = relation.fields.map((field) => `${this.calculated(field.expression, input)} as ${this.quoted(own, field.id)}`);
        return `select ${listed([...kept, ...made])} from ${input.from}`;
      }
      case 'join':
        return this.join(relation, own);
      case 'union':
        return relation.inputs.map((input) => this.stacked(relation, input, own)).join('\nunion all\n');
      case 'limit': {
        const input = this.input(relation.input);
        const order = relation.order ? ` order by ${this.expressions.ordered(relation.order, (of) => this.expression(of, input))}` : '';
        return `select ${this.chosen(relation, input, own)} from ${input.from}${order} limit ${relation.count}`;
      }
      case 'sort': {
        const input = this.input(relation.input);
        return `select ${this.chosen(relation, input, own)} from ${input.from} order by ${this.expressions.ordered(relation.order, (of) => this.expression(of, input))}`;
      }
      case 'group':
        return this.group(relation, own);
    }
  }

  /** A text stands on lines of its own, since its last one may end in a comment; its columns are named by their places. */
  private text(relation: Relation & { node: 'text' }, own: ReadonlyMap<FieldId, string>): string {
    const { step, site, parts, before, given } = relation;
    if (site.kind === 'session')
      this.script = { session: site.session, statements: compileScript(step, before ?? [], this.dialect, this.binding) };
    this.texts.push({ step, text: this.numbered(parts), given });
    const from = `(\n${parts.map((each) => (typeof each === 'string' ? each : this.expressions.textValue(each))).join('')}\n)`;
    const names = given.map(({ name }) => this.dialect.identifier(name)).join(', ');
    const list = relation.columns.map((column) => this.tableColumn(TEXT_ALIAS, column, own));
    return `select ${listed(list)} from ${from} as ${this.dialect.identifier(TEXT_ALIAS)}(${names})`;
  }

  private numbered(parts: readonly TextPart[]): string {
    let count = 0;
    return parts.map((each) => (typeof each === 'string' ? each : `$${++count}::${each.as}`)).join('');
  }

  /** The node's columns as its only input has them. */
  private chosen(relation: Relation, input: Compiled, own: ReadonlyMap<FieldId, string>): string {
    return this.listOf(columnsOf(relation), own, ({ id }) => this.column(input, id));
  }

  private listOf(columns: readonly Column[], own: ReadonlyMap<FieldId, string>, sql: (column: Column) => string): string {
    return listed(columns.map((column) => this.as(sql(column), own, column.id)));
  }

  /** A column under its name; nothing is said twice. */
  private as(sql: string, own: ReadonlyMap<FieldId, string>, id: FieldId): string {
    const alias = this.quoted(own, id);
    return sql === alias || sql.endsWith(`.${alias}`) ? sql : `${sql} as ${alias}`;
  }

  private join(relation: Relation & { node: 'join' }, own: ReadonlyMap<FieldId, string>): string {
    const left = this.input(relation.left);
    const right = this.input(relation.right);
    const both = { from: '', columns: new Map([...left.columns, ...right.columns]), raw: new Set([...left.raw, ...right.raw]) };
    const list = this.listOf(columnsOf(relation), own, ({ id }) => this.column(both, id));
    // Rows of both sides are kept by what can be hashed alone.
    const on = relation.keeps === 'both' ? this.expression(relation.on, both) : this.expressions.keeping(relation.on, this.over(both));
    return `select ${list} from ${left.from} ${JOINS[relation.keeps]} ${right.from} on ${on}`;
  }

  /** One input of a union: its columns under the union's names, in the union's types. */
  private stacked(union: Relation & { node: 'union' }, input: Relation, own: ReadonlyMap<FieldId, string>): string {
    const from = this.input(input);
    const list = union.columns.map((column, at) => {
      const given = columnsOf(input)[at];
      if (!given) throw new RangeError('the inputs of a union are as wide as it is');
      return this.as(this.handedOn(inType({ op: 'field', type: given.type, id: given.id }, column.type), from), own, column.id);
    });
    return `select ${listed(list)} from ${from.from}`;
  }

  private calculated(expression: Expression, input: Compiled): string {
    return expression.op === 'field' ? this.column(input, expression.id) : this.expressions.inEveryRow(expression, this.over(input));
  }

  /** Whether a table's columns are converted on reading and used by what is calculated, possibly several times. */
  private readsConverted(relation: Relation & { node: 'calculate' }): boolean {
    const { input } = relation;
    if (input.node !== 'table' && input.node !== 'text') return false;
    const used = new Set(relation.fields.flatMap((each) => fieldsUsed(each.expression)));
    return input.columns.some((each) => used.has(each.id) && this.dialect.readColumn(each, 'x') !== 'x');
  }

  private group(relation: Relation & { node: 'group' }, own: ReadonlyMap<FieldId, string>): string {
    // What is calculated to be grouped by is computed once a row, not once a use.
    const input = this.input(relation.input, relation.input.node === 'calculate' ? this.dialect.fence : '');
    const keys = relation.keys.map((key) => `${this.groupedBy(key.expression, input)} as ${this.quoted(own, key.id)}`);
    const counts = relation.counts.map(({ id, when }) => {
      const among = when ? ` filter (where (${this.expression(when, input)}) is true)` : '';
      return `count(*)${among} as ${this.quoted(own, id)}`;
    });
    const measures = (relation.measures ?? []).map((each) => `${this.measure(each, input)} as ${this.quoted(own, each.id)}`);
    const numbers = keys.map((_key, index) => index + 1).join(', ');
    if (relation.levels === undefined)
      return `select ${[...keys, ...counts, ...measures].join(', ')} from ${input.from}${keys.length > 0 ? ` group by ${numbers}` : ''}`;
    const over = relation.keys.map((key) => this.groupedBy(key.expression, input));
    const { by, level } = rolledUp(relation.keys, over);
    return `select ${[...keys, ...counts, ...measures, `${level} as ${this.quoted(own, relation.levels)}`].join(', ')} from ${input.from}${by}`;
  }

  private groupedBy(of: Expression, input: Compiled): string {
    const value = this.expression(of, input);
    return this.openNumbers(of)?.value(value) ?? value;
  }

  private openNumbers({ type }: Expression): Dialect['openNumbers'] {
    return isOpen(type) ? this.dialect.openNumbers : undefined;
  }

  private measure({ aggregate, of, type, when, order = [], separator = '' }: MeasureColumn, input: Compiled): string {
    const value = this.expression(of, input);
    const among = when ? ` filter (where (${this.expression(when, input)}) is true)` : '';
    if (aggregate === 'count') return `count(${value})${among}`;
    if (aggregate === 'distinct count') return `count(distinct ${this.groupedBy(of, input)})${among}`;
    if (aggregate === 'sum') return this.dialect.sum(type, of.type, value, among);
    if (aggregate === 'joined') {
      const between = this.expression(textLiteral(separator), input);
      return `string_agg(${value}, ${between} order by ${this.expressions.ordered(order, (each) => this.expression(each, input))})${among}`;
    }
    const open = this.openNumbers(of);
    if (open) return open.extreme(aggregate, value, among);
    const key = of.type.kind === 'text' ? this.dialect.binary(value) : value;
    return `${aggregate === 'least' ? 'min' : 'max'}(${key})${among}`;
  }

  /**
   * A node to select from: a common table expression where it is a step's or stands in several places, which is then
   * written once; else a select in parentheses.
   */
  private input(relation: Relation, fence = ''): Compiled {
    const known = this.written.get(relation);
    if (known) return this.again(known, rawColumns(relation));
    const own = aliases(columnsOf(relation));
    const raw = rawColumns(relation);
    const select = `${this.select(relation)}${fence}`;
    const name = this.uniqueName(relation.name ?? 'rows');
    const quoted = this.dialect.identifier(name);
    if (relation.name === undefined && (this.uses.get(relation) ?? 0) <= 1)
      return { from: `(${select}) as ${quoted}`, columns: this.qualified(quoted, own), raw };
    // Not indented: a quoted name may hold line breaks, which are part of it.
    // A table that several read is read by each of them, with what each asks of it: kept once, it would be written down first.
    const anew = (this.uses.get(relation) ?? 0) > 1 && readsPlainly(relation) ? this.dialect.readAnew : '';
    this.tables.push(`${quoted} as ${anew}(\n${select}\n)`);
    this.written.set(relation, { name, own });
    return { from: quoted, columns: this.qualified(quoted, own), raw };
  }

  /** Another place of something written before gets a name of its own, as both may meet in one select. */
  private again({ name, own }: Written, raw: Compiled['raw']): Compiled {
    const alias = this.dialect.identifier(this.uniqueName(name));
    return { from: `${this.dialect.identifier(name)} as ${alias}`, columns: this.qualified(alias, own), raw };
  }

  private qualified(from: string, own: ReadonlyMap<FieldId, string>): ReadonlyMap<FieldId, string> {
    return new Map([...own.keys()].map((id) => [id, `${from}.${this.quoted(own, id)}`]));
  }

  private uniqueName(name: string): string {
    for (let count = 1; ; count++) {
      const suffix = count === 1 ? '' : ` ${count}`;
      const candidate = cutBytes(name.replace(/\s+/g, ' '), this.dialect.nameBytes - suffix.length) + suffix;
      if (this.names.has(candidate)) continue;
      this.names.add(candidate);
      return candidate;
    }
  }

  private tableColumn(table: string, column: TableColumn, own: ReadonlyMap<FieldId, string>): string {
    const plain = `${this.dialect.identifier(table)}.${this.dialect.identifier(column.column)}`;
    return this.as(this.dialect.readColumn(column, plain), own, column.id);
  }

  private quoted(columns: ReadonlyMap<FieldId, string>, id: FieldId): string {
    return this.dialect.identifier(columns.get(id) ?? id);
  }

  private column(input: Compiled, id: FieldId): string {
    const sql = input.columns.get(id);
    if (sql === undefined) throw new RangeError(`field ${id} is not among the columns of its input`);
    return sql;
  }

  private expression(node: Expression, input: Compiled): string {
    return this.expressions.sql(node, this.over(input));
  }

  /** A value that is shown: a column alone stays as it is. */
  private handedOn(node: Expression, input: Compiled): string {
    return node.op === 'field' ? this.column(input, node.id) : this.expression(node, input);
  }

  private over(input: Compiled): Columns {
    return { sql: (id) => this.column(input, id), isRaw: (id) => input.raw.has(id) };
  }
}

/** A select's list; rows of which no column is wanted still have to be there to be counted. */
const listed = (columns: readonly string[]) => (columns.length > 0 ? columns.join(', ') : '1 as "row"');

const TEXT_ALIAS = 'text';

const JOINS = { pairs: 'join', left: 'left join', right: 'right join', both: 'full join' } as const;

/** Whether a node only reads a table or some of its columns, so that reading it again computes nothing twice. */
function readsPlainly(relation: Relation): boolean {
  return relation.node === 'table' || (relation.node === 'choose' && readsPlainly(relation.input));
}
