import { fieldOfText, linkReferences } from '../expressions';
import type { Field } from '../fields';
import { fieldById, freeName } from '../fields';
import type { SyntaxTree, TextToken } from '../statements';
import { listOf, membersOf, namesOf } from '../statements';
import type { ArrangeKey, CalculatedField } from '../steps';
import { arrangeStep, calculateStep } from '../steps';
import { sayCriteria } from './clauses';
import type { FromOf, Given, Query } from './from';
import { sayFrom } from './from';
import { halfJoinOf, sayHalfJoin } from './half-joins';
import { wholeOf } from './literals';
import type { Meaning } from './meaning';
import { fieldSaid, understood } from './meaning';
import type { Column } from './names';
import { columnIn, columnsOfStar } from './names';
import { nameOfOutput, shapeOf, stands } from './outputs';
import type { RowsOf, Saying } from './saying';
import type { Members } from './speech';
import { say } from './speech';
import type { StaysFor } from './staying';
import { isStar, sayStaying } from './staying';
import { groupKeys, isGrouped, sayGroups } from './summary';
import type { SelectPart } from './unsaid';
import { partly, Unsaid, unsaid } from './unsaid';
import { orderOf } from './windows';
import type { SelectWords } from './words';
import { selectWords } from './words';

/** What is around a select. */
export interface Around {
  readonly saying: Saying;
  /** Common table expressions before it, by name. */
  readonly tables: FromOf['tables'];
  /** A query within it, which stands in these words. */
  query(select: Members, words: readonly TextToken[]): Query;
  /** Rows that stay SQL: a statement of its own, and the parts of the text they stay it for, each with why. */
  stay(sql: string, because: readonly StaysFor[]): Query;
  /** A stretch of the text. */
  slice(span: { readonly from: number; readonly to: number }): string;
  /** Names for the columns it gives, where those are settled from outside. */
  readonly names?: readonly string[];
}

/** Something a select gives: what stands behind `select`, with its name. */
interface Target {
  readonly name: string;
  readonly tree: SyntaxTree;
  /** The column it is, where it comes of a `*`. */
  readonly column?: Column;
  /** Its place among what is written. */
  readonly at: number;
}

/**
 * A select in steps. A part of it that is computed of single rows and has no counterpart stays SQL together with what it
 * reads, and the rest is said behind that. Throws Unsaid where what is left would be nothing.
 */
export function saySelect(select: Members, words: readonly TextToken[], around: Around): Query {
  if (select.valuesLists !== undefined) return unsaid('Rows that are written in the text have no step.');
  if (select.lockingClause !== undefined || select.intoClause !== undefined) return unsaid('This does more than read.');
  const stays = new Map<SelectPart, Unsaid>();
  const before = around.saying.steps.length;
  for (;;) {
    try {
      return new Attempt(select, selectWords(words), around, stays).query();
    } catch (error) {
      if (!(error instanceof Unsaid) || error.part === undefined || stays.has(error.part)) throw error;
      around.saying.backTo(before);
      stays.set(error.part, error);
    }
  }
}

/** One way through a select, with the parts that stay SQL. */
class Attempt {
  private readonly conditions: readonly SyntaxTree[];
  private readonly windows: ReadonlyMap<string, Members>;
  /** Fields in which parts that stay SQL come, by their shapes. */
  private kept: ReadonlyMap<string, Field> = new Map();

  constructor(
    private readonly select: Members,
    private readonly words: SelectWords,
    private readonly around: Around,
    private readonly stays: ReadonlyMap<SelectPart, Unsaid>,
  ) {
    this.conditions = joinedByAnd(select.whereClause);
    this.windows = new Map(
      listOf(select.windowClause).flatMap((each) => {
        const window = membersOf(each, 'WindowDef');
        return window && typeof window.name === 'string' ? [[window.name, window] as const] : [];
      }),
    );
  }

  query(): Query {
    const { saying } = this.around;
    const read = this.stays.size === 0 ? this.read() : this.stay();
    const partOf = (each: SyntaxTree) => this.partOf('where', this.conditions.indexOf(each));
    const plain = read.left.filter((each) => !halfJoinOf(each));
    const some = sayCriteria(saying, read.rows, plain, this.meaning(read.rows, read, true), partOf);
    const given = read.left.reduce<Given>(
      (now, each) => {
        const half = halfJoinOf(each);
        return half ? partly(partOf(each), () => sayHalfJoin(now, half, this.from([]))) : now;
      },
      { rows: some, names: read.names },
    );
    const targets = this.targets(given);
    if (isGrouped(this.select)) return this.grouped(given, targets);
    return this.given(given.rows, targets, this.meaning(given.rows, given, false), (at) =>
      stands(targets.find((each) => each.at === at)?.tree, isWindow) ? undefined : this.partOf('target', at),
    );
  }

  private partOf(kind: 'where' | 'target' | 'group', at: number): SelectPart | undefined {
    return at < 0 ? undefined : `${kind} ${at}`;
  }

  private meaning(rows: RowsOf, { names }: Given, switches: boolean): Meaning {
    const instead = this.kept.size > 0 ? (tree: SyntaxTree) => this.kept.get(shapeOf(tree)) : undefined;
    return this.around.saying.meaning(rows, columnIn(names, rows.arriving.schema), this.windows, switches, instead);
  }

  /** What it reads, as steps. */
  private read(): Given & { readonly left: readonly SyntaxTree[] } {
    return partly('from', () => sayFrom(listOf(this.select.fromClause), this.conditions, this.from(this.words.queries)));
  }

  /** What is read from within it; a query whose words are not given cannot stay SQL by itself. */
  private from(words: readonly (readonly TextToken[])[]): FromOf {
    const { saying, tables, query } = this.around;
    const waiting = [...words];
    return { saying, tables, query: (select) => query(select, waiting.shift() ?? []) };
  }

  /** What it reads with the parts that stay. */
  private stay(): Given & { readonly left: readonly SyntaxTree[] } {
    const { select, words, conditions, stays, around } = this;
    const windows = [...this.windows.values()].map((each) => [each.partitionClause ?? null, each.orderClause ?? null]);
    const { kept, ...given } = sayStaying({ select, words, conditions, windows, stays, slice: around.slice, stay: around.stay });
    this.kept = kept;
    return given;
  }

  /** What its rows are ordered by. The order of a query within says nothing, unless it decides which rows there are. */
  private orders(): readonly SyntaxTree[] {
    const { sortClause, limitCount, distinctClause } = this.select;
    const decides = this.around.names !== undefined || limitCount !== undefined || distinctClause !== undefined;
    return decides ? listOf(sortClause) : [];
  }

  private targets({ names }: Given): readonly Target[] {
    const targets = listOf(this.select.targetList).flatMap((each, at): readonly Target[] => {
      const { name, val = null } = membersOf(each, 'ResTarget') ?? {};
      if (!isStar(each)) return [{ name: typeof name === 'string' ? name : nameOfOutput(val), tree: val, at }];
      const column = membersOf(val, 'ColumnRef');
      return columnsOfStar(namesOf(column?.fields), names, column?.location).map((own) => ({
        name: own.name,
        tree: null,
        column: own,
        at,
      }));
    });
    const { names: settled } = this.around;
    if (!settled) return targets;
    if (settled.length !== targets.length) return unsaid('Its columns are others than those its source described.');
    return targets.map((each, at) => ({ ...each, name: settled[at] ?? each.name }));
  }

  private grouped(given: Given, targets: readonly Target[]): Query {
    const { saying } = this.around;
    const { havingClause } = this.select;
    if (targets.some((each) => each.column)) return unsaid('`*` beside groups has no step.');
    const meaning = this.meaning(given.rows, given, true);
    const column = (name: string) =>
      given.names.merged.some((each) => each.name === name) ||
      given.names.reads.some((each) => each.columns.some((own) => own.name === name));
    const keys = groupKeys(this.select, targets, column);
    keys.forEach((tree, at) => {
      const target = targets.find((each) => shapeOf(each.tree) === shapeOf(tree));
      partly(target ? this.partOf('target', target.at) : this.partOf('group', at), () => understood(say(tree, meaning), meaning.scope));
    });
    const called = new Map(targets.map((each) => [shapeOf(each.tree), each.name]));
    const outputs = new Set(targets.map((each) => each.name));
    const orders = this.orders().flatMap((each) => {
      const { node } = orderOf(each);
      const names = namesOf(membersOf(node, 'ColumnRef')?.fields);
      return wholeOf(node) !== undefined || (names.length === 1 && outputs.has(names[0] ?? '')) ? [] : [node];
    });
    const behind = [...targets.map((each) => each.tree), ...(havingClause === undefined ? [] : [havingClause]), ...orders];
    const groups = sayGroups(saying, given.rows, { keys, behind, called }, meaning);
    const own = (at: RowsOf, switches: boolean) =>
      saying.meaning(
        at,
        (names, location) => unsaid(`${names.join('.')} has several values in a group.`, location),
        this.windows,
        switches,
        (tree) => groups.instead(tree),
      );
    const kept = sayCriteria(saying, groups.rows, joinedByAnd(havingClause), own(groups.rows, true), () => undefined);
    return this.given(kept, targets, own(kept, false), () => undefined);
  }

  /** The targets as fields, calculated where they are not there yet, and the order, number and choice of the rows. */
  private given(rows: RowsOf, targets: readonly Target[], meaning: Meaning, partOf: (at: number) => SelectPart | undefined): Query {
    const { saying } = this.around;
    const { mint } = saying.of;
    const { schema } = rows.arriving;
    const names = new Set(schema.fields.map((each) => each.name));
    const made: CalculatedField[] = [];
    const used = new Set<string>();
    const make = (tree: SyntaxTree, column: Column | undefined, wanted: string): string => {
      const field = column ? fieldById(schema, column.field) : fieldFor(tree, meaning);
      if (field && !used.has(field.id)) return field.id;
      const said = field ? fieldSaid(field, meaning.scope) : say(tree, meaning);
      understood(said, meaning.scope);
      const expression = linkReferences(said.text, meaning.scope);
      // A cast to the type it has is the field itself.
      const same = fieldOfText(expression);
      if (same !== undefined && !used.has(same)) return same;
      const name = freeName(wanted || 'column', names);
      names.add(name);
      made.push({ id: mint(), name, expression });
      return made.at(-1)?.id ?? '';
    };
    const columns = targets.map(({ tree, column, name, at }): Column => {
      const field = partly(partOf(at), () => make(tree, column, name));
      used.add(field);
      return { name, field };
    });
    const order = this.orders().map(orderOf);
    const sort = order.map(({ node, descending, nullsFirst }, at): ArrangeKey => {
      const target = sortedBy(node, targets);
      const field = target === undefined ? partly(undefined, () => madeFor(node, at)) : (columns[target]?.field ?? '');
      return { id: mint(), field, descending, nullsFirst };
    });
    function madeFor(node: SyntaxTree, at: number): string {
      const field = fieldFor(node, meaning);
      return field ? field.id : make(node, undefined, `order ${at + 1}`);
    }
    const calculated = made.length === 0 ? rows : saying.put({ ...calculateStep(mint, rows.step), fields: made });
    return { rows: this.arranged(calculated, columns, sort, meaning), columns };
  }

  private arranged(rows: RowsOf, columns: readonly Column[], sort: readonly ArrangeKey[], meaning: Meaning): RowsOf {
    const { saying } = this.around;
    const { distinctClause } = this.select;
    const first = firstRows(this.select, meaning);
    const distinct = distinctClause === undefined ? null : distinctBy(listOf(distinctClause), columns, meaning);
    if (sort.length === 0 && first === null && distinct === null) return rows;
    const fields = distinct === null ? null : columns.map(({ field }) => ({ field, forUseOnly: false }));
    return saying.put({ ...arrangeStep(saying.of.mint, rows.step), sort, first, distinct, fields });
  }
}

const isWindow = (kind: string, of: Members) => kind === 'FuncCall' && of.over !== undefined;

/** Conditions as they are written with `and` between; those joined within parentheses are one. */
function joinedByAnd(tree: SyntaxTree | undefined): readonly SyntaxTree[] {
  const and = membersOf(tree, 'BoolExpr');
  return and?.boolop === 'AND_EXPR' ? listOf(and.args) : tree === undefined ? [] : [tree];
}

/** The field an expression is, where it is one. */
function fieldFor(tree: SyntaxTree, meaning: Meaning): Field | undefined {
  const instead = meaning.instead?.(tree);
  if (instead) return instead;
  const column = membersOf(tree, 'ColumnRef');
  return column && meaning.column(namesOf(column.fields), column.location);
}

/** The target an order means: by its place, its name, or its words. */
function sortedBy(node: SyntaxTree, targets: readonly Target[]): number | undefined {
  const place = wholeOf(node);
  if (place !== undefined) return place >= 1 && place <= targets.length ? place - 1 : undefined;
  const names = namesOf(membersOf(node, 'ColumnRef')?.fields);
  const byName = names.length === 1 ? targets.findIndex((each) => each.name === names[0]) : -1;
  const at = byName >= 0 ? byName : targets.findIndex((each) => each.tree !== null && shapeOf(each.tree) === shapeOf(node));
  return at < 0 ? undefined : at;
}

/** The first rows a select asks for; null where it asks for all. */
export function firstRows({ limitCount, limitOffset, limitOption }: Members, meaning: Meaning) {
  if (limitOffset !== undefined && wholeOf(limitOffset) !== 0) return unsaid('Rows that are skipped (`offset`) have no step.');
  if (limitCount === undefined || membersOf(limitCount, 'A_Const')?.isnull === true) return null;
  const count = say(limitCount, meaning).text;
  if (!/^(?:\d+|:.*)$/.test(count) || count === '0') return unsaid('How many rows are kept is neither a number nor a parameter.');
  return { count: linkReferences(count, meaning.scope), ties: limitOption === 'LIMIT_OPTION_WITH_TIES', per: [] };
}

function distinctBy(clause: readonly SyntaxTree[], columns: readonly Column[], meaning: Meaning): readonly string[] {
  const by = clause.filter((each) => each !== null && typeof each === 'object' && Object.keys(each).length > 0);
  if (by.length === 0) return columns.map((each) => each.field);
  return by.map((tree) => {
    const names = namesOf(membersOf(tree, 'ColumnRef')?.fields);
    const named = names.length === 1 ? columns.find((each) => each.name === names[0])?.field : undefined;
    return named ?? fieldFor(tree, meaning)?.id ?? unsaid('Rows that are alike in an expression have no step.');
  });
}
