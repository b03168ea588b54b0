import type { Span } from '../problem';
import { closingOf } from './brackets';
import type { TextStatement } from './split';
import type { TextToken } from './tokens';
import { isMark, isWord, nameOf, saying, tokensOf } from './tokens';

/** A part of a text as a statement of its own. */
export type PartText =
  | { readonly ok: true; readonly what: 'query' | 'expression' | 'condition'; readonly text: string }
  | { readonly ok: false; readonly because: string };

/** A common table expression of a text. */
export interface CommonTable extends Span {
  readonly name: string;
  /** Its statement, within the parentheses. */
  readonly inner: Span;
}

/** The common table expressions at the head of a statement, in their order. */
export function commonTablesIn({ tokens: all }: TextStatement): readonly CommonTable[] {
  const tokens = saying(all);
  if (!isWord(tokens[0], 'with')) return [];
  const found: CommonTable[] = [];
  let at = isWord(tokens[1], 'recursive') ? 2 : 1;
  for (;;) {
    const first = tokens[at];
    const name = nameOf(first);
    if (!first || name === undefined) return found;
    at = isMark(tokens[at + 1], '(') ? closingOf(tokens, at + 1) + 1 : at + 1;
    if (!isWord(tokens[at], 'as')) return found;
    at++;
    if (isWord(tokens[at], 'not')) at++;
    if (isWord(tokens[at], 'materialized')) at++;
    const close = isMark(tokens[at], '(') ? closingOf(tokens, at) : -1;
    const [open, last] = [tokens[at], tokens[close]];
    if (!open || !last) return found;
    found.push({ name, from: first.from, to: last.to, inner: { from: open.to, to: last.from } });
    if (!isMark(tokens[close + 1], ',')) return found;
    at = close + 2;
  }
}

/**
 * What is chosen in a statement as a statement of its own, with the common table expressions before it: a query as it is,
 * a common table expression by its rows, an expression over the rows of the select it stands in, and of a condition both
 * sides and whether it holds, over the rows it is asked of.
 */
export function partOf(text: string, statement: TextStatement, chosen: Span): PartText {
  const tables = commonTablesIn(statement);
  const own = tokensWithin(statement, chosen);
  const [first] = own;
  const last = own.at(-1);
  if (!first || !last) return { ok: false, because: 'Nothing is chosen in the text.' };
  const table = tables.find((each) => each.from >= chosen.from && each.to <= chosen.to);
  const within = tables.filter((each) => each.to <= (table?.to ?? first.from));
  const head = headOf(text, statement, within);
  if (table)
    return { ok: true, what: 'query', text: `${head}select * from ${text.slice(table.from, table.from + nameLength(text, table))}` };
  const [begin, end] = withoutParentheses(own);
  const words = text.slice(own[begin]?.from ?? first.from, own[end]?.to ?? last.to);
  if (isWord(own[begin], 'select', 'values', 'table')) return { ok: true, what: 'query', text: head + words };
  if (isWord(own[begin], 'with')) return { ok: true, what: 'query', text: words };
  const around = selectAround(saying(statement.tokens), first.from);
  if (!around) return { ok: true, what: 'expression', text: `${head}select ${words} as part` };
  const compared = comparison(own.slice(begin, end + 1));
  if (compared) {
    const [left, right] = [text.slice(own[begin]?.from, compared.from).trim(), text.slice(compared.to, own[end]?.to).trim()];
    if (left !== '' && right !== '' && !/^(any|all|some)\b/i.test(right))
      return {
        ok: true,
        what: 'condition',
        text: `${head}select ${left} as "left", ${right} as "right", (${words}) as holds\n${text.slice(around.from, around.where)}`,
      };
  }
  return { ok: true, what: 'expression', text: `${head}select ${words} as part\n${text.slice(around.from, around.end)}` };
}

/** How many rows a common table expression has, as a statement. */
export function countedTable(text: string, statement: TextStatement, table: CommonTable): string {
  const within = commonTablesIn(statement).filter((each) => each.to <= table.to);
  return `${headOf(text, statement, within)}select count(*) as rows from ${text.slice(table.from, table.from + nameLength(text, table))}`;
}

/** The common table expressions as they stand before what uses them. */
export function headOf(text: string, { tokens }: TextStatement, tables: readonly CommonTable[]): string {
  if (tables.length === 0) return '';
  const recursive = isWord(saying(tokens)[1], 'recursive') ? 'recursive ' : '';
  return `with ${recursive}${tables.map((each) => text.slice(each.from, each.to)).join(',\n')}\n`;
}

/** The length of a table's name as it is written. */
const nameLength = (text: string, { from }: CommonTable) => tokensOf(text.slice(from, from + 600))[0]?.text.length ?? 0;

const tokensWithin = ({ tokens }: TextStatement, { from, to }: Span) => saying(tokens).filter((each) => each.from >= from && each.to <= to);

function withoutParentheses(tokens: readonly TextToken[]): readonly [number, number] {
  let [begin, end] = [0, tokens.length - 1];
  while (
    isMark(tokens[begin], '(') &&
    isMark(tokens[end], ')') &&
    closingOf(tokens, begin) === end &&
    isWord(tokens[begin + 1], 'select', 'with', 'values')
  ) {
    begin++;
    end--;
  }
  return [begin, end];
}

const COMPARED = ['=', '<>', '!=', '<', '>', '<=', '>=', '~', '~*', '!~', '!~*'];

/** The only comparison of a condition, outside parentheses. */
function comparison(tokens: readonly TextToken[]): Span | undefined {
  const found: Span[] = [];
  for (let at = 0; at < tokens.length; at++) {
    const token = tokens[at];
    if (isMark(token, '(') || isMark(token, '[')) at = closingOf(tokens, at);
    else if (isWord(token, 'and', 'or', 'case', 'between')) return undefined;
    else if (token?.kind === 'operator' && COMPARED.includes(token.text)) found.push(token);
  }
  return found.length === 1 ? found[0] : undefined;
}

interface Around {
  /** From its `from`. */
  readonly from: number;
  /** To before its `where`, or what follows where there is none. */
  readonly where: number;
  /** To before its order and limit. */
  readonly end: number;
}

/** The select something stands in: where its tables begin, its conditions, and its end without order and limit. */
function selectAround(tokens: readonly TextToken[], at: number): Around | undefined {
  const here = tokens.findIndex((each) => each.from >= at);
  let depth = 0;
  let select = -1;
  for (let index = here - 1; index >= 0 && select < 0; index--) {
    if (isMark(tokens[index], ')')) depth++;
    else if (isMark(tokens[index], '(')) depth = Math.max(0, depth - 1);
    else if (depth === 0 && isWord(tokens[index], 'select')) select = index;
  }
  if (select < 0) return undefined;
  let from: number | undefined;
  let where: number | undefined;
  let end = tokens.at(-1)?.to ?? 0;
  for (let index = select + 1; index < tokens.length; index++) {
    const token = tokens[index];
    if (isMark(token, '(')) {
      index = closingOf(tokens, index);
      continue;
    }
    const ends =
      isMark(token, ')') ||
      isMark(token, ';') ||
      isWord(token, 'order', 'limit', 'offset', 'fetch', 'union', 'intersect', 'except', 'window', 'for');
    if (isWord(token, 'from') && !isWord(tokens[index - 1], 'distinct')) from ??= token?.from;
    else if (isWord(token, 'where', 'group', 'having')) where ??= token?.from;
    else if (ends && from !== undefined) {
      end = token?.from ?? end;
      break;
    }
  }
  return from === undefined ? undefined : { from, where: Math.min(where ?? end, end), end };
}
