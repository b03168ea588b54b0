import { linkReferences, writtenName } from '../expressions';
import type { JoinPair, Kept } from '../joins';
import { slotPair } from '../joins';
import type { SyntaxTree } from '../statements';
import { conjunctsOf, listOf, membersOf, namesOf, nodeOf } from '../statements';
import type { JoinStep } from '../steps';
import { joinStep, tableStep } from '../steps';
import { say } from './speech';
import type { Members } from './speech';
import { understood } from './meaning';
import type { Column, Names } from './names';
import { columnIn, renamedIn } from './names';
import { stands } from './outputs';
import { compared } from './said';
import type { RowsOf, Saying } from './saying';
import { unsaid } from './unsaid';

/** Rows with what their columns are called. */
export interface Given {
  readonly rows: RowsOf;
  readonly names: Names;
}

/** The rows of a query, with its columns in their order. */
export interface Query {
  readonly rows: RowsOf;
  readonly columns: readonly Column[];
}

export interface FromOf {
  readonly saying: Saying;
  /** Common table expressions by name. */
  readonly tables: ReadonlyMap<string, () => Query>;
  /** Says the next query in parentheses; they are asked for in the order they stand. */
  query(select: Members): Query;
}

const NO_WINDOWS = new Map<string, Members>();

/** What `from` reads, joined; conditions of `where` that join tables of its list are taken out of those given. */
export function sayFrom(
  from: readonly SyntaxTree[],
  conditions: readonly SyntaxTree[],
  of: FromOf,
): Given & { readonly left: readonly SyntaxTree[] } {
  const [first, ...others] = from.map((each) => sayItem(each, of));
  if (!first) return unsaid('It reads from no table.');
  let [given, left, waiting] = [first, conditions, others];
  while (waiting.length > 0) {
    const next = waiting.find((each) => connecting(left, given, each).length > 0) ?? waiting[0];
    if (!next) break;
    const pairs = connecting(left, given, next);
    given = joined(of.saying, given, next, { met: true, left: false, right: false }, pairs, []);
    left = left.filter((each) => !pairs.includes(each));
    waiting = waiting.filter((each) => each !== next);
  }
  return { ...given, left };
}

function sayItem(item: SyntaxTree, of: FromOf): Given {
  const node = nodeOf(item);
  switch (node?.kind) {
    case 'RangeVar':
      return called(node.of, sayTable(node.of, of));
    case 'RangeSubselect': {
      if (node.of.lateral === true) return unsaid('A query that looks at the row beside it has no step.');
      const select = membersOf(node.of.subquery, 'SelectStmt') ?? {};
      const { rows, columns } = of.query(select);
      return called(node.of, { rows, names: { reads: [{ alias: '', columns }], merged: [] } });
    }
    case 'JoinExpr':
      return called(node.of, sayJoin(node.of, of));
    case 'RangeFunction':
      return unsaid('Rows a function makes have no step.', functionAt(node.of));
    default:
      return unsaid('What it reads from here has no step.', node?.of.location);
  }
}

const functionAt = ({ functions }: Members) => membersOf(listOf(membersOf(listOf(functions)[0], 'List')?.items)[0], 'FuncCall')?.location;

function sayTable({ relname, schemaname, inh, location }: Members, { saying, tables }: FromOf): Given {
  const name = String(relname);
  const own = schemaname === undefined ? tables.get(name) : undefined;
  if (own) {
    const { rows, columns } = own();
    return { rows, names: { reads: [{ alias: name, columns }], merged: [] } };
  }
  if (inh !== true) return unsaid('`only` has no step.', location);
  const found = saying.of.tables.filter((each) => each.name === name && (schemaname === undefined || each.schema === schemaname));
  const [known] = found;
  if (!known) return unsaid(`What the table ${name} has is not known.`, location);
  const read = tableStep(saying.of.mint, saying.of.source, known);
  // Which of its fields are handed on is known at the end.
  const step = { ...read, taken: read.fields.map((each) => each.id) };
  const rows = saying.put(step);
  return {
    rows,
    names: { reads: [{ alias: name, columns: step.fields.map(({ id, column }) => ({ name: column, field: id })) }], merged: [] },
  };
}

/** Under its alias, with other names for its columns where the text gives some. */
function called({ alias }: Members, given: Given): Given {
  const { aliasname, colnames } = membersOf({ Alias: alias ?? null }, 'Alias') ?? {};
  if (typeof aliasname !== 'string') return given;
  const names = namesOf(colnames);
  const columns = given.names.reads.flatMap((each) => each.columns);
  return {
    ...given,
    names: { reads: [{ alias: aliasname, columns: columns.map((each, at) => ({ ...each, name: names[at] ?? each.name })) }], merged: [] },
  };
}

const KEEPS: Readonly<Record<string, Kept>> = {
  JOIN_INNER: { met: true, left: false, right: false },
  JOIN_LEFT: { met: true, left: true, right: false },
  JOIN_RIGHT: { met: true, left: false, right: true },
  JOIN_FULL: { met: true, left: true, right: true },
};

function sayJoin({ jointype, larg, rarg, quals, usingClause, isNatural, join_using_alias: usingAlias }: Members, of: FromOf): Given {
  const [left, right] = [sayItem(larg ?? null, of), sayItem(rarg ?? null, of)];
  const keeps = KEEPS[String(jointype)] ?? unsaid('This join has no step.');
  if (usingAlias !== undefined) return unsaid('An alias of `using` has no counterpart.');
  const using = isNatural === true ? common(left.names, right.names) : namesOf(usingClause);
  if (keeps.left && keeps.right && using.length > 0) return unsaid('A full join by `using` has no step.');
  return joined(of.saying, left, right, keeps, conjunctsOf(quals), using);
}

const common = (a: Names, b: Names): readonly string[] => {
  const names = ({ reads }: Names) => [...new Set(reads.flatMap((each) => each.columns.map(({ name }) => name)))];
  return names(a).filter((each) => names(b).includes(each));
};

/** Two sides side by side where conditions hold of both; without any, every row meets every other. */
export function joined(
  saying: Saying,
  left: Given,
  right: Given,
  keeps: Kept,
  conditions: readonly SyntaxTree[],
  using: readonly string[],
): Given {
  const { mint, context } = saying.of;
  const inputs = [left.rows, right.rows] as const;
  const [read] = right.names.reads;
  const base = joinStep(mint, [left.rows.step, right.rows.step], [left.rows.arriving, right.rows.arriving], read?.alias ?? 'other');
  const idOf = new Map(base.fields.map((each) => [each.from, each.id]));
  const names = renamedIn(right.names, (field) => idOf.get(field) ?? field);
  const partners = base.fields.flatMap((each) => {
    const field = right.rows.arriving.schema.fields.find(({ id }) => id === each.from);
    return field ? [{ ...field, id: each.id, name: each.name }] : [];
  });
  const { parameters, calendar } = context;
  const scopes = [inputs[0].arriving.schema, { fields: partners }].map((schema) => ({ schema, parameters, calendar }));
  const schema = { fields: [...inputs[0].arriving.schema.fields, ...partners] };
  const both: Names = { reads: [...left.names.reads, ...names.reads], merged: [...left.names.merged, ...names.merged] };
  const column = columnIn(both, schema);
  const meaning = saying.meaning({ step: '', arriving: { ...inputs[0].arriving, schema } }, column, NO_WINDOWS, true);
  const equal = using.map((name) => {
    const [mine, theirs] = [columnIn(left.names, schema)([name], undefined), columnIn(names, schema)([name], undefined)];
    return compared(`${writtenName('field', mine.name)} = ${writtenName('field', theirs.name)}`);
  });
  const said = [...equal, ...conditions.filter((each) => !isTrue(each)).map((each) => say(each, meaning))];
  const pairs = said.map((each): JoinPair => {
    understood(each, meaning.scope);
    const written = { id: mint(), kind: 'written' as const, expression: linkReferences(each.text, meaning.scope) };
    const [mine, theirs] = scopes;
    return (mine && theirs && slotPair(written, mine, theirs)) ?? written;
  });
  const step: JoinStep = { ...base, keeps, pairs, everyPair: pairs.length === 0, taken: base.fields.map((each) => each.id) };
  const rows = saying.put(step);
  const kept = keeps.right ? names : left.names;
  const merged = using.map((name) => ({ name, field: columnIn(kept, schema)([name], undefined).id }));
  return { rows, names: { reads: both.reads, merged: [...merged, ...both.merged] } };
}

const isTrue = (tree: SyntaxTree) => {
  const value = membersOf(tree, 'A_Const')?.boolval;
  return typeof value === 'object' && value !== null && (value as { readonly boolval?: boolean }).boolval === true;
};

/** Conditions that look at both of two things read from, and at nothing else. */
function connecting(conditions: readonly SyntaxTree[], a: Given, b: Given): readonly SyntaxTree[] {
  return conditions.filter((each) => {
    if (stands(each, (kind) => kind === 'SubLink')) return false;
    const columns = columnsNamed(each);
    const sides = columns.map((names) => (isIn(names, a.names) ? 'a' : isIn(names, b.names) ? 'b' : 'other'));
    return sides.includes('a') && sides.includes('b') && !sides.includes('other');
  });
}

export function isIn(names: readonly string[], { reads }: Names): boolean {
  const [name, qualifier] = [names.at(-1), names.at(-2)];
  return reads.some(({ alias, columns }) => (qualifier === undefined || qualifier === alias) && columns.some((each) => each.name === name));
}

/** The columns named in an expression, each by its names. */
export function columnsNamed(tree: SyntaxTree | undefined): readonly (readonly string[])[] {
  if (typeof tree !== 'object' || tree === null) return [];
  const column = membersOf(tree, 'ColumnRef');
  if (column) return [namesOf(column.fields)];
  return Object.values(tree).flatMap((each: SyntaxTree) => columnsNamed(each));
}
