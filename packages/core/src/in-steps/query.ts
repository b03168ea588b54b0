import { sameType, isNumber } from '../fields';
import { commonFor } from '../steps';
import type { SyntaxTree, TextToken } from '../statements';
import { commonTablesIn, headOf, listOf, membersOf, namesOf } from '../statements';
import type { ArrangeKey, UnionField } from '../steps';
import { arrangeStep, unionStep } from '../steps';
import type { Members } from './speech';
import type { Query } from './from';
import { wholeOf } from './literals';
import type { Column } from './names';
import { columnIn, fieldsOf } from './names';
import type { Saying } from './saying';
import type { Around } from './select';
import { firstRows, saySelect } from './select';
import type { StaysFor } from './staying';
import { Unsaid, unsaid } from './unsaid';
import { orderOf } from './windows';
import { armsOf } from './words';

/** What a query stands in. */
export interface Within {
  readonly saying: Saying;
  readonly text: string;
  /** Common table expressions before it: said once, where they are first asked for. */
  readonly tables: Around['tables'];
  /** Them as they are written, for a part of it that runs by itself. */
  readonly head: string;
  readonly names?: readonly string[];
  stay(sql: string, because: readonly StaysFor[]): Query;
}

/** What a query within another stands in: its columns are called as it calls them. */
type Inner = Omit<Within, 'names'>;

const unnamed = ({ names: _outer, ...within }: Within): Inner => within;

/** A query in steps: a select, or a union of some, with its common table expressions. Throws Unsaid where it has none. */
export function sayQuery(select: Members, words: readonly TextToken[], within: Within): Query {
  const inner = withTables(select, words, within);
  if (select.op !== undefined && select.op !== 'SETOP_NONE') return sayUnion(select, words, inner);
  const { saying, tables, head, text, names } = inner;
  return saySelect(select, words, {
    saying,
    tables,
    ...(names ? { names } : {}),
    slice: ({ from, to }) => text.slice(from, to),
    stay: (sql, because) => inner.stay(head + sql, because),
    query: (own, ownWords) => orStays(own, ownWords, unnamed(inner)),
  });
}

/** A query in steps, or as it stands where it has none. */
function orStays(select: Members, words: readonly TextToken[], within: Inner): Query {
  const before = within.saying.steps.length;
  try {
    return sayQuery(select, words, within);
  } catch (error) {
    const [first, last] = [words[0], words.at(-1)];
    if (!(error instanceof Unsaid) || !first || !last) throw error;
    within.saying.backTo(before);
    const sql = within.text.slice(first.from, last.to);
    return within.stay(within.head + sql, [{ words: sql, why: error }]);
  }
}

function withTables(select: Members, words: readonly TextToken[], within: Within): Within {
  const clause = membersOf({ WithClause: select.withClause ?? null }, 'WithClause');
  if (!clause) return within;
  if (clause.recursive === true) return unsaid('A query that builds on its own rows (with recursive) has no step.', clause.location);
  const [first, last] = [words[0], words.at(-1)];
  const statement = { from: first?.from ?? 0, to: last?.to ?? 0, tokens: words };
  const written = commonTablesIn(statement);
  const tables = new Map(within.tables);
  listOf(clause.ctes).forEach((tree, at) => {
    const { ctename, ctequery, aliascolnames } = membersOf(tree, 'CommonTableExpr') ?? {};
    const own = written[at];
    const query = membersOf(ctequery, 'SelectStmt');
    if (typeof ctename !== 'string' || !own || !query) return;
    // It sees those before it only.
    const before = new Map(tables);
    const head = within.head + headOf(within.text, statement, written.slice(0, at));
    const inside = words.filter((each) => each.from >= own.inner.from && each.to <= own.inner.to);
    const renamed = namesOf(aliascolnames);
    let said: Query | undefined;
    tables.set(ctename, () => {
      said ??= orStays(query, inside, { ...unnamed(within), tables: before, head });
      return { ...said, columns: said.columns.map((each, place) => ({ ...each, name: renamed[place] ?? each.name })) };
    });
  });
  return { ...within, tables, head: within.head + headOf(within.text, statement, written) };
}

function sayUnion(select: Members, words: readonly TextToken[], within: Within): Query {
  const { saying } = within;
  const { mint } = saying.of;
  if (select.op !== 'SETOP_UNION') return unsaid('`intersect` and `except` have no step.');
  const once = select.all !== true;
  const trees = armTrees(select, once);
  const arms = armsOf(withoutTables(words));
  const said = trees.map((each, at) => orStays(each, arms[at] ?? [], unnamed(within)));
  const [first] = said;
  if (!first || arms.length !== trees.length) return unsaid('This union cannot be taken apart.');
  const columns = said.map((each) => fieldsOf(each.columns, each.rows.arriving.schema));
  const fields = first.columns.map(({ name }, at): UnionField => {
    const own = columns.map((each) => each[at]);
    const types = own.flatMap((each) => each?.type ?? []);
    const [type] = types;
    if (!type || own.some((each) => !each)) return unsaid('The parts of this union have columns of different number.');
    const same = types.every((each) => sameType(each, type)) || types.every(isNumber);
    const as = same ? null : types.reduce((a, b) => commonFor(a, b) ?? unsaid(`The parts of this union have different types of ${name}.`));
    return { id: mint(), name: within.names?.[at] ?? name, from: own.map((each) => each?.id ?? null), as };
  });
  const inputs = said.map((each) => each.rows.step);
  const base = unionStep(
    mint,
    inputs,
    said.map((each) => each.rows.arriving),
  );
  const rows = saying.put({ ...base, once, fields });
  const given = fields.map(({ id, name }): Column => ({ name, field: id }));
  return sorted(select, { rows, columns: given }, saying);
}

/** The selects of a chain of unions of one kind. */
function armTrees(select: Members, once: boolean): readonly Members[] {
  const { op, all, larg, rarg, sortClause, limitCount } = select;
  if (op === undefined || op === 'SETOP_NONE') return [select];
  if (op !== 'SETOP_UNION' || (all !== true) !== once) return unsaid('Unions of different kinds beside one another have no step.');
  const arm = (tree: SyntaxTree | undefined): readonly Members[] => {
    if (typeof tree !== 'object' || tree === null || Array.isArray(tree)) return [];
    const own = tree as Members;
    return own.sortClause !== undefined || own.limitCount !== undefined ? [own] : armTrees(own, once);
  };
  if (larg === undefined && (sortClause !== undefined || limitCount !== undefined)) return [select];
  return [...arm(larg), ...arm(rarg)];
}

const withoutTables = (words: readonly TextToken[]): readonly TextToken[] => {
  const [first, last] = [words[0], words.at(-1)];
  const tables = commonTablesIn({ from: first?.from ?? 0, to: last?.to ?? 0, tokens: words });
  const end = tables.at(-1)?.to ?? -1;
  return words.filter((each) => each.from >= end);
};

/** The order and number of a union's rows, by its own columns. */
function sorted(select: Members, { rows, columns }: Query, saying: Saying): Query {
  const { mint } = saying.of;
  const names = { reads: [{ alias: '', columns }], merged: [] };
  const meaning = saying.meaning(rows, columnIn(names, rows.arriving.schema), new Map(), false);
  const sort = listOf(select.sortClause).map((each): ArrangeKey => {
    const { node, descending, nullsFirst } = orderOf(each);
    const place = wholeOf(node);
    const name = namesOf(membersOf(node, 'ColumnRef')?.fields).at(-1);
    const column = place === undefined ? columns.find((own) => own.name === name) : columns[place - 1];
    return {
      id: mint(),
      field: column?.field ?? unsaid('A union is sorted by something that is no column of it.'),
      descending,
      nullsFirst,
    };
  });
  const first = firstRows(select, meaning);
  if (sort.length === 0 && first === null) return { rows, columns };
  return { rows: saying.put({ ...arrangeStep(mint, rows.step), sort, first }), columns };
}
