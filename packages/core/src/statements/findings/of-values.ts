import type { FieldType } from '../../fields';
import { isNumber } from '../../fields';
import type { Problem } from '../../problem';
import { closingOf, openingOf } from '../brackets';
import type { SyntaxTree } from '../grammar';
import { listOf, membersOf, namesOf, nodeOf } from '../grammar';
import { isMark, isWord } from '../tokens';
import type { LookedAt } from './looked-at';
import { finding } from './looked-at';
import type { Select } from './selects';
import { columnMeant, columnNames, constantOf, expressionNodes, nodesHere } from './selects';

/** Findings about what is computed and compared in a select. */
export function findingsOfValues(looked: LookedAt, select: Select): readonly Problem[] {
  const found: Problem[] = [...hidden(looked, select)];
  for (const { kind, of } of expressionNodes(select)) {
    if (kind === 'A_Expr') found.push(...compared(looked, select, of));
    if (kind === 'BoolExpr' && of.boolop === 'NOT_EXPR') found.push(...notIn(looked, of));
    if (kind === 'FuncCall') found.push(...counted(looked, select, of));
  }
  return found;
}

type Members = Readonly<Record<string, SyntaxTree>>;

function compared(looked: LookedAt, select: Select, of: Members): readonly Problem[] {
  const operator = namesOf(of.name).at(-1);
  const at = looked.wordAt(looked.at(of.location) ?? 0);
  if (
    of.kind === 'AEXPR_OP' &&
    (operator === '=' || operator === '<>') &&
    [of.lexpr, of.rexpr].some((each) => constantOf(each)?.kind === 'null')
  ) {
    const message = 'Nothing equals null, not even null: this keeps no row.';
    const last = constantOf(of.rexpr)?.kind === 'null' && isWord(looked.tokens[at + 1], 'null') ? at + 1 : undefined;
    const instead = operator === '=' ? 'is null' : 'is not null';
    return [finding('equals-null', 'warning', message, looked.span(at, last ?? at), instead, last === undefined ? undefined : instead)];
  }
  if (of.kind === 'AEXPR_OP' && operator === '/' && isWhole(of.lexpr, select) && isWhole(of.rexpr, select)) {
    const left = operandBefore(looked, at);
    const message = 'Whole numbers divided here give a whole number: what is behind the point is cut off.';
    return [
      finding(
        'integer-division',
        'warning',
        message,
        looked.span(left, at - 1),
        'a decimal on one side',
        `${looked.slice(looked.span(left, at - 1))}::numeric`,
      ),
    ];
  }
  if (of.kind === 'AEXPR_BETWEEN' || of.kind === 'AEXPR_NOT_BETWEEN') return betweenTimes(looked, select, of, at);
  if (of.kind === 'AEXPR_OP' && operator !== undefined && ['=', '<', '>', '<=', '>='].includes(operator))
    return castKey(looked, select, of);
  if (
    of.kind === 'AEXPR_IN' &&
    operator === '<>' &&
    listOf(membersOf(of.rexpr, 'List')?.items ?? of.rexpr).some((each) => constantOf(each)?.kind === 'null')
  )
    return [
      finding(
        'not-in-nullable',
        'warning',
        'A null in the list leaves no row: nothing is known to differ from it.',
        looked.span(at, at + 1),
        'a list without null',
      ),
    ];
  return [];
}

/** The word an operand begins with that ends before an operator: a name, a number, or what stands in parentheses. */
function operandBefore(looked: LookedAt, operator: number): number {
  const { tokens } = looked;
  let at = operator - 1;
  if (isMark(tokens[at], ')')) {
    at = openingOf(tokens, at);
    if (tokens[at - 1]?.kind === 'word' && !isWord(tokens[at - 1], 'select', 'and', 'or', 'when', 'then', 'in')) at--;
  }
  while (isMark(tokens[at - 1], '.')) at -= 2;
  return Math.max(at, 0);
}

const WHOLE_AGGREGATES = ['count', 'length', 'row_number', 'rank', 'dense_rank'];

function isWhole(tree: SyntaxTree | undefined, select: Select): boolean {
  if (constantOf(tree)?.kind === 'whole') return true;
  if (columnMeant(tree, select)?.column.type.kind === 'whole') return true;
  const call = membersOf(tree, 'FuncCall');
  if (!call) return false;
  const name = namesOf(call.funcname).at(-1) ?? '';
  if (WHOLE_AGGREGATES.includes(name)) return true;
  return (name === 'min' || name === 'max') && isWhole(listOf(call.args)[0], select);
}

/** A day as the end of `between` is its first moment. */
function betweenTimes(looked: LookedAt, select: Select, of: Members, between: number): readonly Problem[] {
  const type = columnMeant(of.lexpr, select)?.column.type.kind;
  if (type !== 'datetime' && type !== 'instant') return [];
  const until = listOf(membersOf(of.rexpr, 'List')?.items ?? of.rexpr).at(-1);
  const literal = membersOf(until, 'A_Const');
  const sval = literal?.sval;
  const value = typeof sval === 'object' && sval !== null && 'sval' in sval ? sval.sval : undefined;
  if (!/^\d{4}-\d\d-\d\d$/.test(typeof value === 'string' ? value : '')) return [];
  const end = looked.wordAt(looked.at(literal?.location) ?? 0);
  const begin = operandBefore(looked, of.kind === 'AEXPR_NOT_BETWEEN' ? between - 1 : between);
  const column = looked.slice(looked.span(begin, (of.kind === 'AEXPR_NOT_BETWEEN' ? between - 1 : between) - 1));
  const lower = looked.slice(looked.span(between + 1, end - 2));
  const message = `This column has times of day, so the last day counts only its first moment.`;
  if (of.kind === 'AEXPR_NOT_BETWEEN' || !isWord(looked.tokens[between], 'between') || !isWord(looked.tokens[end - 1], 'and'))
    return [finding('between-date-times', 'warning', message, looked.span(between, end), 'the day after, as an end that is not included')];
  const instead = `${column} >= ${lower} and ${column} < date ${looked.tokens[end]?.text ?? ''} + 1`;
  return [
    finding('between-date-times', 'warning', message, looked.span(begin, end), 'the day after, as an end that is not included', instead),
  ];
}

/** A key compared with a wider number is cast row by row, and its index not used. */
function castKey(looked: LookedAt, select: Select, of: Members): readonly Problem[] {
  for (const [own, other] of [
    [of.lexpr, of.rexpr],
    [of.rexpr, of.lexpr],
  ]) {
    const found = columnMeant(own, select);
    if (!found || found.column.type.kind !== 'whole') continue;
    const isKey = found.read.table?.keys.some((each) => each.columns[0] === found.column.name) === true;
    const type = columnMeant(other, select)?.column.type;
    const cast = membersOf(other, 'TypeCast');
    const wider =
      constantOf(other)?.kind === 'decimal' ||
      (type && isWiderNumber(type)) ||
      (cast !== undefined && WIDER.includes(namesOf(castName(cast)).at(-1) ?? ''));
    if (!isKey || !wider) continue;
    const at = looked.wordAt(looked.at(membersOf(own, 'ColumnRef')?.location) ?? 0);
    const last = at + 2 * (columnNames(own).length - 1);
    const message = `The key ${found.column.name} is cast in every row to be compared with a wider number, so its index is not used.`;
    return [finding('key-cast', 'hint', message, looked.span(at, last), 'a whole number on the other side')];
  }
  return [];
}

const WIDER = ['numeric', 'float8', 'float4'];
const isWiderNumber = (type: FieldType) => isNumber(type) && type.kind !== 'whole';
const castName = (cast: Members): SyntaxTree | undefined => {
  const { typeName } = cast;
  return typeof typeName === 'object' && typeName !== null && 'names' in typeName ? typeName.names : undefined;
};

/** `not in` over values of which one is null keeps nothing. */
function notIn(looked: LookedAt, of: Members): readonly Problem[] {
  return listOf(of.args).flatMap((each): readonly Problem[] => {
    const link = membersOf(each, 'SubLink');
    if (link?.subLinkType !== 'ANY_SUBLINK' || link.operName !== undefined) return [];
    const inner = membersOf(link.subselect, 'SelectStmt');
    const target = membersOf(listOf(inner?.targetList)[0], 'ResTarget')?.val;
    if (!inner || inner.op !== 'SETOP_NONE') return [];
    const from = listOf(inner.fromClause).flatMap((item) => {
      const { relname, schemaname, alias } = membersOf(item, 'RangeVar') ?? {};
      const table = looked.context.tables.find(
        (table) => table.name === relname && (schemaname === undefined || table.schema === schemaname),
      );
      const named = typeof alias === 'object' && alias !== null && 'aliasname' in alias ? alias.aliasname : relname;
      return [{ alias: typeof named === 'string' ? named : '', table, temp: false, location: undefined, outer: undefined }];
    });
    const column = columnMeant(target, { from })?.column;
    if (!column?.nullable || saysNotNull(inner.whereClause, column.name)) return [];
    const at = looked.wordAt(looked.at(link.location) ?? 0);
    const open = looked.tokens.findIndex((token, index) => index >= at && isMark(token, '('));
    const close = closingOf(looked.tokens, open);
    const plain =
      inner.groupClause === undefined &&
      inner.sortClause === undefined &&
      inner.limitCount === undefined &&
      inner.havingClause === undefined;
    const anyOf = membersOf(inner.whereClause, 'BoolExpr')?.boolop === 'OR_EXPR';
    const position = looked.span(open, close);
    const name = looked.slice({ from: looked.at(membersOf(target, 'ColumnRef')?.location) ?? 0, to: endOfColumn(looked, target) });
    const instead =
      plain && !anyOf && close > open
        ? `${looked.text.slice(position.from, position.to - 1)} ${inner.whereClause === undefined ? 'where' : 'and'} ${name} is not null)`
        : undefined;
    const message = `${column.name} may be null, and one null among these leaves no row at all.`;
    return [finding('not-in-nullable', 'warning', message, position, 'only values, or “not exists”', instead)];
  });
}

function endOfColumn(looked: LookedAt, target: SyntaxTree | undefined): number {
  const first = looked.wordAt(looked.at(membersOf(target, 'ColumnRef')?.location) ?? 0);
  return looked.tokens[first + 2 * (columnNames(target).length - 1)]?.to ?? 0;
}

const saysNotNull = (where: SyntaxTree | undefined, column: string) =>
  [...nodesHere(where)].some(
    ({ kind, of }) => kind === 'NullTest' && of.nulltesttype === 'IS_NOT_NULL' && columnNames(of.arg).at(-1) === column,
  );

/** `count(column)` counts rows with a value; where there are nulls that is not how many rows there are. */
function counted(looked: LookedAt, select: Select, of: Members): readonly Problem[] {
  if (namesOf(of.funcname).at(-1) !== 'count' || of.agg_distinct === true || of.agg_star === true) return [];
  const [argument] = listOf(of.args);
  const found = columnMeant(argument, select);
  if (!found || !(found.column.nullable || found.read.outer)) return [];
  const at = looked.wordAt(looked.at(of.location) ?? 0);
  const close = closingOf(looked.tokens, at + 1);
  const message = `${found.column.name} may be null, and rows without a value of it are not counted.`;
  return [
    finding('count-column', 'hint', message, looked.span(at, close), '“count(*)” for rows, unless rows with a value are meant', 'count(*)'),
  ];
}

/** A name given to something else than the column of that name, and then used where the column is meant. */
function hidden(looked: LookedAt, select: Select): readonly Problem[] {
  const columns = new Set(select.from.flatMap((each) => each.table?.columns.map(({ name }) => name) ?? []));
  const used = new Set(
    [select.of.groupClause, select.of.sortClause].flatMap((part) =>
      [...nodesHere(part)].flatMap(({ kind, tree }) => (kind === 'ColumnRef' && columnNames(tree).length === 1 ? columnNames(tree) : [])),
    ),
  );
  return listOf(select.of.targetList).flatMap((target) => {
    const { name, val, location } = membersOf(target, 'ResTarget') ?? {};
    if (typeof name !== 'string' || !columns.has(name) || !used.has(name) || nodeOf(val)?.kind === 'ColumnRef') return [];
    const from = looked.wordAt(looked.at(location) ?? 0);
    const at = looked.tokens.findIndex(
      (token, index) => index >= from && isWord(looked.tokens[index - 1], 'as') && token.text.toLowerCase() === name,
    );
    const message = `${name} is a column as well: “group by” takes the column, “order by” takes this.`;
    return [finding('alias-hides-column', 'warning', message, looked.span(Math.max(at, from), Math.max(at, from)), 'another name')];
  });
}
