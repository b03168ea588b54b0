import type { SyntaxTree } from '../statements';
import { listOf, membersOf, namesOf } from '../statements';
import { withoutCasts } from './casts';

/** The name PostgreSQL gives a column of a select that has no alias (parse_target.c, FigureColname). */
export function nameOfOutput(tree: SyntaxTree | undefined): string {
  const inner = withoutCasts(tree);
  const column = membersOf(inner, 'ColumnRef');
  if (column) return namesOf(column.fields).at(-1) ?? '';
  const call = membersOf(inner, 'FuncCall');
  if (call) return namesOf(call.funcname).at(-1) ?? '';
  if (membersOf(inner, 'CoalesceExpr')) return 'coalesce';
  const chosen = membersOf(inner, 'CaseExpr');
  if (chosen) return chosen.defresult === undefined ? 'case' : nameOrCase(chosen.defresult);
  const extreme = membersOf(inner, 'MinMaxExpr');
  if (extreme) return extreme.op === 'IS_GREATEST' ? 'greatest' : 'least';
  const cast = membersOf(tree, 'TypeCast');
  return cast ? (namesOf(membersOf({ TypeName: cast.typeName ?? null }, 'TypeName')?.names).at(-1) ?? '') : '';
}

const nameOrCase = (tree: SyntaxTree) => {
  const name = nameOfOutput(tree);
  return name === '' ? 'case' : name;
};

/** A tree without its places, so that the same words are the same wherever they stand. */
export function shapeOf(tree: SyntaxTree | undefined): string {
  return JSON.stringify(tree ?? null, (key, value: unknown) => (PLACES.has(key) ? undefined : value));
}

const PLACES = new Set(['location', 'rexpr_list_start', 'rexpr_list_end', 'list_start', 'list_end']);

/** Whether something of a kind stands in a tree, outside queries within it. */
export function stands(tree: SyntaxTree | undefined, is: (kind: string, of: Readonly<Record<string, SyntaxTree>>) => boolean): boolean {
  if (typeof tree !== 'object' || tree === null) return false;
  if (Array.isArray(tree)) return listOf(tree).some((each) => stands(each, is));
  return Object.entries(tree as Readonly<Record<string, SyntaxTree>>).some(([kind, of]) => {
    const members = typeof of === 'object' && of !== null && !Array.isArray(of) ? (of as Readonly<Record<string, SyntaxTree>>) : undefined;
    if (kind === 'SelectStmt') return false;
    return (members !== undefined && /^[A-Z]/.test(kind) && is(kind, members)) || stands(of, is);
  });
}
