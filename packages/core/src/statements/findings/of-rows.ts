import type { Problem } from '../../problem';
import type { SyntaxTree } from '../grammar';
import { conjunctsOf, listOf, membersOf, namesOf, nodeOf } from '../grammar';
import { isMark, isWord } from '../tokens';
import type { LookedAt } from './looked-at';
import { finding } from './looked-at';
import type { Select } from './selects';
import { columnMeant, columnNames, constantOf, nodesHere, readUnder } from './selects';

/** Findings about which rows and columns a select gives. */
export function findingsOfRows(looked: LookedAt, select: Select): readonly Problem[] {
  return [
    ...stars(looked, select),
    ...limits(looked, select),
    ...unjoined(looked, select),
    ...undone(looked, select),
    ...repeatedKeys(looked, select),
  ];
}

const PLAIN = /^[a-z_][a-z0-9_]*$/;
const written = (name: string) => (PLAIN.test(name) ? name : `"${name.replaceAll('"', '""')}"`);

/** `*` gives whatever columns there are when it runs. In `exists (select * …)` nobody sees them, and those of a temp table its script says. */
function stars(looked: LookedAt, select: Select): readonly Problem[] {
  return listOf(select.of.targetList).flatMap((target) => {
    const value = membersOf(target, 'ResTarget')?.val;
    const column = membersOf(value, 'ColumnRef');
    if (!column || !listOf(column.fields).some((each) => nodeOf(each)?.kind === 'A_Star')) return [];
    const first = looked.wordAt(looked.at(column.location) ?? 0);
    if (isWord(looked.tokens[first - 1], 'select') && isMark(looked.tokens[first - 2], '(') && isWord(looked.tokens[first - 3], 'exists'))
      return [];
    const qualifier = namesOf(column.fields).at(-1);
    const last = qualifier === undefined ? first : first + 2 * namesOf(column.fields).length;
    const among = select.from.filter((each) => qualifier === undefined || each.alias === qualifier);
    if (among.length > 0 && among.every((each) => each.temp)) return [];
    const known = among.length > 0 && among.every((each) => each.table !== undefined);
    const several = select.from.length > 1;
    const names = among.flatMap(({ alias, table }) =>
      (table?.columns ?? []).map(({ name }) => (several ? `${written(alias)}.${written(name)}` : written(name))),
    );
    const message = 'A star gives whatever columns there are when it runs, also those added later.';
    return [
      finding(
        'select-star',
        'warning',
        message,
        looked.span(first, last),
        'the columns that are meant',
        known ? names.join(', ') : undefined,
      ),
    ];
  });
}

/** A limit left from trying, and one that takes any rows because nothing says which come first. */
function limits(looked: LookedAt, { of, outermost }: Select): readonly Problem[] {
  if (of.limitCount === undefined || constantOf(of.limitCount)?.kind === 'null') return [];
  const at = wordOfLimit(looked, of.limitCount);
  if (at === undefined) return [];
  const found: Problem[] = [];
  const position = looked.span(at, at + 1);
  const number = looked.tokens[at + 1]?.text ?? '';
  if (outermost && constantOf(of.limitCount)?.kind === 'whole' && number !== '0') {
    const message = `Only the first ${number} rows leave this text, however many there are.`;
    found.push(
      finding(
        'limit-left',
        'warning',
        message,
        withBlankBefore(looked, position),
        'no limit, unless these are the rows that are meant',
        '',
      ),
    );
  }
  if (of.sortClause === undefined && !givesOneRow(of))
    found.push(
      finding(
        'limit-without-order',
        'warning',
        'Without an order any rows may be the first ones, and others the next time.',
        position,
        'an order that decides which come first',
      ),
    );
  return found;
}

function wordOfLimit(looked: LookedAt, count: SyntaxTree): number | undefined {
  const location = locationOf(count);
  const at = location === undefined ? undefined : looked.wordAt(location);
  const limit = at === undefined ? undefined : at - 1;
  return limit !== undefined && isWord(looked.tokens[limit], 'limit') ? limit : undefined;

  function locationOf(tree: SyntaxTree): number | undefined {
    const place = nodeOf(tree)?.of.location;
    return place === undefined ? undefined : looked.at(place);
  }
}

const withBlankBefore = (looked: LookedAt, { from, to }: { readonly from: number; readonly to: number }) => ({
  from: from - (/\s*$/.exec(looked.text.slice(0, from))?.[0].length ?? 0),
  to,
});

const AGGREGATES = ['count', 'sum', 'avg', 'min', 'max', 'string_agg', 'array_agg', 'bool_and', 'bool_or', 'every'];

/** Aggregates without groups are one row. */
function givesOneRow({ targetList, groupClause }: Select['of']): boolean {
  if (groupClause !== undefined) return false;
  return listOf(targetList).some((each) =>
    [...nodesHere(each)].some(
      ({ kind, of }) => kind === 'FuncCall' && of.over === undefined && AGGREGATES.includes(namesOf(of.funcname).at(-1) ?? ''),
    ),
  );
}

/** Tables side by side with nothing that tells which rows belong together. A `cross join` says so itself. */
function unjoined(looked: LookedAt, select: Select): readonly Problem[] {
  const items = listOf(select.of.fromClause);
  if (items.length < 2) return onTrue(looked, select);
  const groups = items.map(
    (item) =>
      new Set([...nodesHere(item)].flatMap(({ kind, of }) => (kind === 'RangeVar' || kind === 'RangeSubselect' ? [aliasOf(of)] : []))),
  );
  if (groups.some((each) => each.size === 0)) return onTrue(looked, select);
  const joined = new Set([0]);
  const links = [...nodesHere(select.of.whereClause)].flatMap(({ kind, of }) =>
    kind === 'A_Expr' || kind === 'FuncCall' ? [groupsIn(of, groups, select)] : [],
  );
  for (let grown = true; grown;) {
    grown = false;
    for (const link of links) {
      if (link === 'unknown') return onTrue(looked, select);
      if (![...link].some((each) => joined.has(each))) continue;
      for (const each of link)
        if (!joined.has(each)) {
          joined.add(each);
          grown = true;
        }
    }
  }
  const alone = groups.findIndex((_each, index) => !joined.has(index));
  const item = items[alone];
  if (alone < 0 || !item) return onTrue(looked, select);
  const [read] = [...nodesHere(item)].flatMap(({ kind, of }) => (kind === 'RangeVar' ? [of] : []));
  const from = looked.wordAt(looked.at(read?.location) ?? 0);
  const name = [...(groups[alone] ?? [])][0] ?? '';
  return [
    finding(
      'join-without-condition',
      'warning',
      `Nothing says which rows of ${name} belong to the others, so each meets all of them.`,
      looked.span(from, from),
      'a condition that joins it, or “cross join” where every pair is meant',
    ),
    ...onTrue(looked, select),
  ];
}

function aliasOf(of: Readonly<Record<string, SyntaxTree>>): string {
  const { alias, relname } = of;
  const named = typeof alias === 'object' && alias !== null && 'aliasname' in alias ? alias.aliasname : relname;
  return typeof named === 'string' ? named : '';
}

/** Which of the listed items an expression's columns belong to. */
function groupsIn(
  of: Readonly<Record<string, SyntaxTree>>,
  groups: readonly ReadonlySet<string>[],
  select: Select,
): ReadonlySet<number> | 'unknown' {
  const found = new Set<number>();
  for (const { kind, tree } of nodesHere(Object.values(of))) {
    if (kind !== 'ColumnRef') continue;
    const names = columnNames(tree);
    const alias = names.length > 1 ? names.at(-2) : columnMeant(tree, select)?.read.alias;
    if (alias === undefined) return 'unknown';
    const at = groups.findIndex((each) => each.has(alias));
    if (at >= 0) found.add(at);
  }
  return found;
}

/** `join x on true`, where it is not lateral. */
function onTrue(looked: LookedAt, { of }: Select): readonly Problem[] {
  return [...nodesHere(of.fromClause)].flatMap((join) => {
    if (join.kind !== 'JoinExpr') return [];
    const constant = membersOf(join.of.quals, 'A_Const');
    const isTrue = constant !== undefined && JSON.stringify(constant.boolval ?? null).includes('true');
    const right = nodeOf(join.of.rarg);
    if (!isTrue || right?.of.lateral === true || right?.kind === 'RangeFunction') return [];
    const at = looked.wordAt(looked.at(constant.location) ?? 0);
    return [
      finding(
        'join-without-condition',
        'warning',
        'This join holds for every pair of rows.',
        looked.span(at - 1, at),
        'a condition that joins them, or “cross join” where every pair is meant',
      ),
    ];
  });
}

/** A condition in `where` on the side of an outer join that may be missing leaves only rows that met. */
function undone(looked: LookedAt, select: Select): readonly Problem[] {
  const done = new Set<unknown>();
  return conjunctsOf(select.of.whereClause).flatMap((condition): readonly Problem[] => {
    const compared = membersOf(condition, 'A_Expr');
    if (!compared || compared.kind === 'AEXPR_DISTINCT' || compared.kind === 'AEXPR_NOT_DISTINCT') return [];
    const columns = [compared.lexpr, compared.rexpr].flatMap((each) =>
      each !== undefined && nodeOf(each)?.kind === 'ColumnRef' ? [each] : [],
    );
    return columns.flatMap((column): readonly Problem[] => {
      const read = readUnder(column, select);
      const join = read?.outer;
      if (!read || !join || done.has(join) || join.jointype === 'JOIN_FULL') return [];
      done.add(join);
      const words = outerWords(looked, join);
      const message = `This asks for a value of ${read.alias}, so rows without a partner there are gone: the outer join keeps none.`;
      const at = looked.wordAt(looked.at(membersOf(column, 'ColumnRef')?.location) ?? 0);
      if (!words) return [finding('outer-join-undone', 'warning', message, looked.span(at, at), OUTER)];
      return [finding('outer-join-undone', 'warning', message, looked.span(words.first, words.last), OUTER, 'join')];
    });
  });
}

const OUTER = 'the condition in “on”, or a plain join where that is meant';

/** The words `left join` of a join, found before what it joins. */
function outerWords(
  looked: LookedAt,
  join: Readonly<Record<string, SyntaxTree>>,
): { readonly first: number; readonly last: number } | undefined {
  const right = nodeOf(join.rarg)?.of;
  const start = right?.location === undefined ? undefined : looked.wordAt(looked.at(right.location) ?? 0);
  if (start === undefined) return undefined;
  const last = start - 1;
  if (!isWord(looked.tokens[last], 'join')) return undefined;
  const outer = isWord(looked.tokens[last - 1], 'outer') ? last - 2 : last - 1;
  return isWord(looked.tokens[outer], 'left', 'right') ? { first: outer, last } : undefined;
}

function repeatedKeys(looked: LookedAt, { of }: Select): readonly Problem[] {
  const seen = new Set<string>();
  return listOf(of.groupClause).flatMap((key) => {
    const node = nodeOf(key);
    if (!node || node.kind !== 'ColumnRef') return [];
    const name = columnNames(key).join('.');
    if (!seen.has(name)) {
      seen.add(name);
      return [];
    }
    const first = looked.wordAt(looked.at(node.of.location) ?? 0);
    const last = first + 2 * (columnNames(key).length - 1);
    if (!isMark(looked.tokens[first - 1], ',')) return [];
    const position = { from: looked.tokens[first - 1]?.from ?? 0, to: looked.tokens[last]?.to ?? 0 };
    return [finding('group-by-repeats', 'hint', `It is grouped by ${name} already.`, position, 'each key once', '')];
  });
}
