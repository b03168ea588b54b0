import type { SyntaxTree, TreeNode } from '../grammar';
import { listOf, membersOf, namesOf, nodeOf, nodesIn } from '../grammar';
import type { LookedAt, TableLike } from './looked-at';

type Members = TreeNode['of'];

/** Something a select reads from. */
export interface ReadFrom {
  readonly alias: string;
  /** The table it is, where it is one of the source that is known. */
  readonly table: TableLike | undefined;
  /** It is a temp table of the script the text stands in, which alone says its columns. */
  readonly temp: boolean;
  readonly location: SyntaxTree | undefined;
  /** Rows of it may be missing: it is on the side of an outer join that is not kept. The join is told. */
  readonly outer: Members | undefined;
}

/** A select somewhere in a text, with what it reads from. */
export interface Select {
  readonly of: Members;
  readonly outermost: boolean;
  readonly from: readonly ReadFrom[];
}

const isMembers = (tree: SyntaxTree | undefined): tree is Members => typeof tree === 'object' && tree !== null && !Array.isArray(tree);

/** Every select of a text: also the parts of a union, which stand in their node without a kind's name. */
export function selectsOf(looked: LookedAt): readonly Select[] {
  const found: Select[] = [];
  const own = new Set(
    [...nodesIn(looked.tree)].flatMap(({ kind, of }) => (kind === 'CommonTableExpr' && typeof of.ctename === 'string' ? [of.ctename] : [])),
  );
  const add = (of: Members, outermost: boolean) => {
    found.push({ of, outermost, from: readsOf(of, looked, own) });
    for (const part of [of.larg, of.rarg]) if (isMembers(part)) add(part, false);
  };
  const root = membersOf(looked.tree, 'SelectStmt');
  for (const { kind, of } of nodesIn(looked.tree)) if (kind === 'SelectStmt') add(of, of === root);
  return found;
}

function readsOf({ fromClause }: Members, looked: LookedAt, own: ReadonlySet<string>): readonly ReadFrom[] {
  const read = (item: SyntaxTree, outer: Members | undefined): readonly ReadFrom[] => {
    const node = nodeOf(item);
    if (node?.kind === 'JoinExpr') {
      const { jointype, larg, rarg } = node.of;
      const left = jointype === 'JOIN_RIGHT' || jointype === 'JOIN_FULL' ? node.of : outer;
      const right = jointype === 'JOIN_LEFT' || jointype === 'JOIN_FULL' ? node.of : outer;
      return [...read(larg ?? null, left), ...read(rarg ?? null, right)];
    }
    if (!node) return [];
    const { alias, relname, schemaname, location } = node.of;
    const named = isMembers(alias) && typeof alias.aliasname === 'string' ? alias.aliasname : relname;
    const table = node.kind === 'RangeVar' ? tableNamed(looked, schemaname, relname, own) : undefined;
    const temp = node.kind === 'RangeVar' && isTemp(looked, schemaname, relname) && !own.has(String(relname));
    return [{ alias: typeof named === 'string' ? named : '', table, temp, location, outer }];
  };
  return listOf(fromClause).flatMap((each) => read(each, undefined));
}

function tableNamed(
  looked: LookedAt,
  schema: SyntaxTree | undefined,
  name: SyntaxTree | undefined,
  own: ReadonlySet<string>,
): TableLike | undefined {
  if (typeof name !== 'string' || (schema === undefined && own.has(name)) || isTemp(looked, schema, name)) return undefined;
  return looked.context.tables.find((each) => each.name === name && (schema === undefined || each.schema === schema));
}

const isTemp = ({ context: { temps = [] } }: LookedAt, schema: SyntaxTree | undefined, name: SyntaxTree | undefined): boolean =>
  (schema === undefined || schema === 'pg_temp') && typeof name === 'string' && temps.includes(name);

export interface ColumnFound {
  readonly read: ReadFrom;
  readonly column: TableLike['columns'][number];
}

/** The column a name means in a select; undefined where that is not known for certain. */
export function columnMeant(tree: SyntaxTree | undefined, { from }: Pick<Select, 'from'>): ColumnFound | undefined {
  const names = columnNames(tree);
  const name = names.at(-1);
  if (name === undefined) return undefined;
  const qualifier = names.at(-2);
  const among = qualifier === undefined ? from : from.filter((each) => each.alias === qualifier || each.table?.name === qualifier);
  if (among.some((each) => each.table === undefined)) return undefined;
  const found = among.flatMap((read) => read.table?.columns.flatMap((column) => (column.name === name ? [{ read, column }] : [])) ?? []);
  return found.length === 1 ? found[0] : undefined;
}

/** The names of a column as it is written: `h`, `kilos`. */
export const columnNames = (tree: SyntaxTree | undefined): readonly string[] => namesOf(membersOf(tree, 'ColumnRef')?.fields);

/** What is read from under a name in front of a column. */
export function readUnder(tree: SyntaxTree | undefined, select: Pick<Select, 'from'>): ReadFrom | undefined {
  const names = columnNames(tree);
  const qualifier = names.at(-2);
  return qualifier === undefined ? columnMeant(tree, select)?.read : select.from.find((each) => each.alias === qualifier);
}

/** Nodes of an expression, not those of selects within it, which have names of their own. */
export function* nodesHere(root: SyntaxTree | undefined): Generator<TreeNode & { readonly tree: SyntaxTree }> {
  const waiting: SyntaxTree[] = [root ?? null];
  for (let tree = waiting.pop(); tree !== undefined; tree = waiting.pop()) {
    if (typeof tree !== 'object' || tree === null) continue;
    if (Array.isArray(tree)) {
      waiting.push(...[...(tree as readonly SyntaxTree[])].reverse());
      continue;
    }
    const node = nodeOf(tree);
    if (node?.kind === 'SelectStmt') continue;
    if (node) yield { ...node, tree };
    waiting.push(...Object.values(tree).reverse());
  }
}

/** All expressions of a select, its own ones only. */
export function* expressionNodes({ of }: Select): Generator<TreeNode & { readonly tree: SyntaxTree }> {
  for (const part of [of.targetList, of.whereClause, of.groupClause, of.havingClause, of.sortClause, of.valuesLists])
    yield* nodesHere(part);
  for (const item of nodesHere(of.fromClause)) if (item.kind === 'JoinExpr') yield* nodesHere(item.of.quals);
}

/** A constant: its kind and value. */
export function constantOf(tree: SyntaxTree | undefined): { readonly kind: 'whole' | 'decimal' | 'text' | 'null' | 'other' } | undefined {
  const constant = membersOf(tree, 'A_Const');
  if (!constant) return undefined;
  if (constant.isnull === true) return { kind: 'null' };
  if ('ival' in constant) return { kind: 'whole' };
  if ('fval' in constant) return { kind: 'decimal' };
  return { kind: 'sval' in constant ? 'text' : 'other' };
}
