import type { ParameterType } from '../parameters';
import type { Span } from '../problem';
import type { TextToken } from './tokens';
import { isMark, isWord, nameOf, saying, tokensOf } from './tokens';

/** A stretch of a text in another notation, and what it is here. */
export interface Converted extends Span {
  readonly was: string;
  readonly now: string;
}

/** A parameter a text has in another notation, with what its declaration says of it. */
export interface ConvertedParameter {
  readonly name: string;
  readonly type?: ParameterType;
  /** Its first value, in wire form. */
  readonly startsAs?: string;
}

/** A text with its parameters as `:name`, what was changed, and the parameters it names so. */
export interface ConvertedText {
  readonly text: string;
  readonly changes: readonly Converted[];
  readonly parameters: readonly ConvertedParameter[];
}

/**
 * The text with parameters of other notations (`@x`, `?`, `$1`, `{x}`, `${x}`, also in quotes) as `:name`, and without the
 * declarations at its head, whose types and values its parameters take. Undefined where there is nothing of the kind.
 * Outside its changes the text is as it was.
 */
export function conversionOf(text: string): ConvertedText | undefined {
  const tokens = saying(tokensOf(text));
  const { declared, until, span } = declarationsAt(text, tokens);
  const numbered = new Map<string, string>();
  const names = new Map<string, ConvertedParameter>(declared.map((each) => [each.name, each]));
  const changes: Converted[] = span ? [{ ...span, was: text.slice(span.from, span.to), now: '' }] : [];
  for (let at = until; at < tokens.length; at++) {
    const found = foreignAt(tokens, at);
    if (!found) continue;
    const name = found.name === undefined ? nameFrom(tokens, at, names, numbered, found.key) : found.name;
    changes.push({ from: found.from, to: found.to, was: text.slice(found.from, found.to), now: `:${name}` });
    if (!names.has(name)) names.set(name, { name });
    at = found.last;
  }
  if (changes.length === 0) return undefined;
  const used = new Set(changes.map((each) => each.now.slice(1)));
  return { text: changed(text, changes), changes, parameters: [...names.values()].filter((each) => used.has(each.name)) };
}

function changed(text: string, changes: readonly Converted[]): string {
  let out = '';
  let at = 0;
  for (const { from, to, now } of changes) {
    out += text.slice(at, from) + now;
    at = to;
  }
  return out + text.slice(at);
}

interface Foreign extends Span {
  /** The last token it is made of. */
  readonly last: number;
  /** Left out where the notation has none. */
  readonly name?: string;
  /** What tells one without a name from others: `$1` is the same parameter wherever it stands, each `?` is one of its own. */
  readonly key?: string;
}

const IN_QUOTES = /^'(?:@([\p{L}_][\p{L}\p{N}_]*)|\$?\{([\p{L}_][\p{L}\p{N}_]*)\}|\$(\d+))'$/u;

function foreignAt(tokens: readonly TextToken[], at: number): Foreign | undefined {
  const token = tokens[at];
  if (!token) return undefined;
  const { from, to, kind } = token;
  const next = tokens[at + 1];
  if (kind === 'operator' && token.text === '@' && next?.kind === 'word' && next.from === to)
    return { from, to: next.to, last: at + 1, name: next.text };
  if (kind === 'operator' && token.text.endsWith('@') && token.text.length > 1 && next?.kind === 'word' && next.from === to)
    return { from: to - 1, to: next.to, last: at + 1, name: next.text };
  if (kind === 'numbered') return { from, to, last: at, key: token.text };
  if (kind === 'operator' && token.text === '?' && !isOperand(tokens[at + 1])) return { from, to, last: at };
  if (kind === 'string') {
    const [, marked, braced, number] = IN_QUOTES.exec(token.text) ?? [];
    const name = marked ?? braced;
    if (name !== undefined) return { from, to, last: at, name };
    return number === undefined ? undefined : { from, to, last: at, key: `$${number}` };
  }
  const braces =
    kind === 'other' && token.text === '{'
      ? at
      : kind === 'other' && token.text === '$' && isBrace(next, '{') && next?.from === to
        ? at + 1
        : undefined;
  if (braces === undefined) return undefined;
  const [word, close] = [tokens[braces + 1], tokens[braces + 2]];
  if (word?.kind !== 'word' || !isBrace(close, '}')) return undefined;
  return { from, to: close?.to ?? to, last: braces + 2, name: word.text };
}

const isBrace = (token: TextToken | undefined, text: string) => token?.kind === 'other' && token.text === text;

/** Behind a `?` that is an operator stands what it is applied to. */
const isOperand = (token: TextToken | undefined) =>
  token?.kind === 'string' || token?.kind === 'number' || token?.kind === 'quoted' || isWord(token, 'any', 'all', 'array');

/** The name of what a place is compared with, else `value`, each once; a number has the one it was given first. */
function nameFrom(
  tokens: readonly TextToken[],
  at: number,
  names: ReadonlyMap<string, ConvertedParameter>,
  numbered: Map<string, string>,
  key: string | undefined,
): string {
  const known = key === undefined ? undefined : numbered.get(key);
  if (known !== undefined) return known;
  const wanted = (comparedBefore(tokens, at) ?? 'value').replace(/[^\p{L}\p{N}_]/gu, '_').replace(/^(?=\p{N})/u, '_');
  let name = wanted;
  for (let count = 2; names.has(name); count++) name = `${wanted}_${count}`;
  if (key !== undefined) numbered.set(key, name);
  return name;
}

function comparedBefore(tokens: readonly TextToken[], at: number): string | undefined {
  const before = tokens[at - 1];
  if (before?.kind === 'operator' || isWord(before, 'like', 'ilike'))
    return nameOf(tokens[isWord(tokens[at - 2], 'not') ? at - 3 : at - 2]);
  if (isMark(before, '(') && isWord(tokens[at - 2], 'in')) return nameOf(tokens[isWord(tokens[at - 3], 'not') ? at - 4 : at - 3]);
  if (isWord(before, 'between')) return `${nameOf(tokens[at - 2]) ?? 'value'}_from`;
  if (isWord(before, 'and') && isWord(tokens[at - 3], 'between')) return `${nameOf(tokens[at - 4]) ?? 'value'}_until`;
  return isWord(before, 'limit') ? 'rows' : undefined;
}

interface Declared {
  readonly declared: readonly ConvertedParameter[];
  /** The first token behind them. */
  readonly until: number;
  readonly span: Span | undefined;
}

/** `declare @x int = 5, @y date;`, `set @x = 5;`, `\set x 5`, `define x = 5` before anything else. */
function declarationsAt(text: string, tokens: readonly TextToken[]): Declared {
  const declared = new Map<string, ConvertedParameter>();
  let at = 0;
  for (;;) {
    const end = isWord(tokens[at], 'declare')
      ? declares(tokens, at + 1, declared)
      : isWord(tokens[at], 'set')
        ? sets(tokens, at + 1, declared)
        : lineAt(text, tokens, at, declared);
    if (end === undefined) break;
    at = isMark(tokens[end], ';') ? end + 1 : end;
  }
  const [first, last] = [tokens[0], tokens[at - 1]];
  if (!first || !last || at === 0) return { declared: [], until: 0, span: undefined };
  const behind = /^\s*/.exec(text.slice(last.to))?.[0].length ?? 0;
  return { declared: [...declared.values()], until: at, span: { from: first.from, to: last.to + behind } };
}

const isMarked = (tokens: readonly TextToken[], at: number) => tokens[at]?.text === '@' && tokens[at + 1]?.kind === 'word';

function declares(tokens: readonly TextToken[], from: number, declared: Map<string, ConvertedParameter>): number | undefined {
  let at = from;
  for (;;) {
    if (!isMarked(tokens, at)) return undefined;
    const name = tokens[at + 1]?.text ?? '';
    at += 2;
    if (isWord(tokens[at], 'as')) at++;
    const type = tokens[at];
    if (type?.kind !== 'word') return undefined;
    at++;
    if (isMark(tokens[at], '(')) {
      const close = tokens.findIndex((each, index) => index > at && isMark(each, ')'));
      if (close < 0) return undefined;
      at = close + 1;
    }
    let value: string | undefined;
    if (tokens[at]?.text === '=' || tokens[at]?.text === ':=') {
      const read = valueAt(tokens, at + 1);
      if (!read) return undefined;
      ({ value, at } = read);
    }
    declared.set(name, { name, type: TYPES[type.text.toLowerCase()] ?? 'text', ...(value === undefined ? {} : { startsAs: value }) });
    if (!isMark(tokens[at], ',')) return at;
    at++;
  }
}

function sets(tokens: readonly TextToken[], from: number, declared: Map<string, ConvertedParameter>): number | undefined {
  if (!isMarked(tokens, from) || !['=', ':='].includes(tokens[from + 2]?.text ?? '')) return undefined;
  const name = tokens[from + 1]?.text ?? '';
  const read = valueAt(tokens, from + 3);
  if (!read) return undefined;
  declared.set(name, { ...declared.get(name), name, startsAs: read.value });
  return read.at;
}

/** A line of a tool's own: `\set x 5`, `define x = 5`. */
function lineAt(text: string, tokens: readonly TextToken[], at: number, declared: Map<string, ConvertedParameter>): number | undefined {
  const token = tokens[at];
  if (!token) return undefined;
  const line = text.slice(token.from, (text.indexOf('\n', token.from) + 1 || text.length + 1) - 1);
  const match = /^(?:\\set\s+([\p{L}_][\p{L}\p{N}_]*)\s+|define\s+([\p{L}_][\p{L}\p{N}_]*)\s*=\s*)(\S.*?)\s*;?\s*$/iu.exec(line);
  const name = match?.[1] ?? match?.[2];
  if (name === undefined) return undefined;
  declared.set(name, { name, startsAs: (match?.[3] ?? '').replace(/^'(.*)'$/, '$1').replaceAll("''", "'") });
  const next = tokens.findIndex((each) => each.from >= token.from + line.length);
  return next < 0 ? tokens.length : next;
}

function valueAt(tokens: readonly TextToken[], at: number): { readonly value: string; readonly at: number } | undefined {
  const sign = tokens[at]?.text === '-' ? '-' : '';
  const token = tokens[sign ? at + 1 : at];
  if (token?.kind === 'number') return { value: sign + token.text, at: at + (sign ? 2 : 1) };
  if (token?.kind === 'string' && !sign) return { value: token.text.replace(/^[nN]?'(.*)'$/s, '$1').replaceAll("''", "'"), at: at + 1 };
  return isWord(token, 'null') ? { value: '', at: at + 1 } : undefined;
}

const TYPES: Readonly<Record<string, ParameterType>> = {
  int: 'whole number',
  integer: 'whole number',
  bigint: 'whole number',
  smallint: 'whole number',
  tinyint: 'whole number',
  int4: 'whole number',
  int8: 'whole number',
  numeric: 'decimal',
  decimal: 'decimal',
  money: 'decimal',
  float: 'decimal',
  real: 'decimal',
  double: 'decimal',
  number: 'decimal',
  date: 'date',
  datetime: 'date-time',
  datetime2: 'date-time',
  timestamp: 'date-time',
  timestamptz: 'date-time',
  bit: 'yes/no',
  bool: 'yes/no',
  boolean: 'yes/no',
};
