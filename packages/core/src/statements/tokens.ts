import type { Span } from '../problem';

/**
 * The words of a SQL text, as PostgreSQL reads them (its manual, chapter “Lexical structure”). Together they are the
 * text: nothing is left out, whatever it holds, so that a text can be cut up, changed at places and put together again.
 */
export interface TextToken extends Span {
  readonly kind: TextTokenKind;
  /** As it stands in the text. */
  readonly text: string;
}

export type TextTokenKind =
  | 'blank'
  | 'comment'
  | 'word'
  /** A name in double quotes. */
  | 'quoted'
  /** A text, however it is quoted. */
  | 'string'
  | 'number'
  /** `:name`. */
  | 'parameter'
  /** `$1`. */
  | 'numbered'
  | 'operator'
  /** `::` and `:=`. */
  | 'colons'
  /** One of `( ) [ ] , ; . :`. */
  | 'mark'
  /** A text, a quoted name or a comment that does not end. */
  | 'open'
  /** What begins nothing. */
  | 'other';

const BLANK = /[ \t\r\n\f\v]+/y;
const LINE_COMMENT = /--[^\r\n]*/y;
/** PostgreSQL takes every byte beyond ASCII as a letter, and so every character; half a pair too, so that none is lost. */
const WORD = /[A-Za-z_\u0080-\uffff][A-Za-z0-9_$\u0080-\uffff]*/y;
const NUMBER = /(?:0[xX][0-9a-fA-F_]+|0[oO][0-7_]+|0[bB][01_]+|(?:\d[\d_]*(?:\.(?!\.)[\d_]*)?|\.\d[\d_]*)(?:[eE][+-]?\d[\d_]*)?)/y;
const PARAMETER = /:[\p{L}_][\p{L}\p{N}_]*/uy;
const NUMBERED = /\$\d+/y;
const DOLLARS = /\$(?:[A-Za-z_\u0080-\uffff][A-Za-z0-9_\u0080-\uffff]*)?\$/y;
const OPERATOR = /[+\-*/<>=~!@#%^&|`?]+/y;

/** Cuts a text into tokens. It takes any text, in a time in proportion to its length. */
export function tokensOf(text: string): readonly TextToken[] {
  const tokens: TextToken[] = [];
  /** What is open: within brackets `:n` is the end of a slice. */
  const open: string[] = [];
  for (let at = 0; at < text.length;) {
    const { kind, to } = tokenAt(text, at, open.at(-1) === '[');
    const token: TextToken = { kind, from: at, to, text: text.slice(at, to) };
    tokens.push(token);
    if (kind === 'mark') {
      if (token.text === '(' || token.text === '[') open.push(token.text);
      else if (token.text === ')' || token.text === ']') open.pop();
    }
    at = to;
  }
  return tokens;
}

interface Found {
  readonly kind: TextTokenKind;
  readonly to: number;
}

function tokenAt(text: string, at: number, inBrackets: boolean): Found {
  const char = text[at] ?? '';
  const found = (kind: TextTokenKind, to: number | undefined): Found | undefined => (to === undefined ? undefined : { kind, to });
  return (
    found('blank', matched(BLANK, text, at)) ??
    found('comment', matched(LINE_COMMENT, text, at)) ??
    (text.startsWith('/*', at) ? blockComment(text, at) : undefined) ??
    quotedWith(text, at) ??
    found('word', matched(WORD, text, at)) ??
    found('number', matched(NUMBER, text, at)) ??
    (char === '$' ? (found('numbered', matched(NUMBERED, text, at)) ?? dollarQuoted(text, at)) : undefined) ??
    (char === ':' ? colon(text, at, inBrackets) : undefined) ??
    (char === '?' ? { kind: 'operator' as const, to: operatorEnd(text, at) } : undefined) ??
    found('operator', matched(OPERATOR, text, at) === undefined ? undefined : operatorEnd(text, at)) ??
    ('()[],;.'.includes(char) ? { kind: 'mark' as const, to: at + 1 } : { kind: 'other' as const, to: at + 1 })
  );
}

function matched(pattern: RegExp, text: string, at: number): number | undefined {
  pattern.lastIndex = at;
  return pattern.test(text) ? pattern.lastIndex : undefined;
}

function colon(text: string, at: number, inBrackets: boolean): Found {
  if (text[at + 1] === ':' || text[at + 1] === '=') return { kind: 'colons', to: at + 2 };
  const end = inBrackets ? undefined : matched(PARAMETER, text, at);
  return end === undefined ? { kind: 'mark', to: at + 1 } : { kind: 'parameter', to: end };
}

/** An operator ends where a comment begins. */
function operatorEnd(text: string, at: number): number {
  const end = matched(OPERATOR, text, at) ?? at + 1;
  const run = text.slice(at, end);
  const comment = Math.min(...['--', '/*'].flatMap((each) => (run.includes(each) ? [run.indexOf(each)] : [])), run.length);
  return at + Math.max(comment, 1);
}

function blockComment(text: string, at: number): Found {
  let depth = 0;
  for (let index = at; index < text.length; index++) {
    if (text.startsWith('/*', index)) {
      depth++;
      index++;
    } else if (text.startsWith('*/', index)) {
      depth--;
      index++;
      if (depth === 0) return { kind: 'comment', to: index + 1 };
    }
  }
  return { kind: 'open', to: text.length };
}

const PREFIXED = /(?:[eE]|[bB]|[xX]|[nN]|[uU]&)?'|(?:[uU]&)?"/y;

function quotedWith(text: string, at: number): Found | undefined {
  const begin = matched(PREFIXED, text, at);
  if (begin === undefined) return undefined;
  const quote = text[begin - 1] ?? '';
  const escapes = /[eE]/.test(text[at] ?? '');
  for (let index = begin; index < text.length; index++) {
    if (escapes && text[index] === '\\') index++;
    else if (text[index] === quote && text[index + 1] === quote) index++;
    else if (text[index] === quote) return { kind: quote === '"' ? 'quoted' : 'string', to: index + 1 };
  }
  return { kind: 'open', to: text.length };
}

function dollarQuoted(text: string, at: number): Found {
  const begin = matched(DOLLARS, text, at);
  if (begin === undefined) return { kind: 'other', to: at + 1 };
  const end = text.indexOf(text.slice(at, begin), begin);
  return end < 0 ? { kind: 'open', to: text.length } : { kind: 'string', to: end + begin - at };
}

/** Those that say something: neither blanks nor comments. */
export const saying = (tokens: readonly TextToken[]): readonly TextToken[] =>
  tokens.filter(({ kind }) => kind !== 'blank' && kind !== 'comment');

/** Whether a token is a keyword, as PostgreSQL reads words: without regard to case. */
export const isWord = (token: TextToken | undefined, ...words: readonly string[]): boolean =>
  token?.kind === 'word' && words.includes(token.text.toLowerCase());

export const isMark = (token: TextToken | undefined, mark: string): boolean => token?.kind === 'mark' && token.text === mark;

/** A name as it is meant: in double quotes as it stands there, else in small letters. */
export function nameOf(token: TextToken | undefined): string | undefined {
  if (token?.kind === 'word') return token.text.toLowerCase();
  return token?.kind === 'quoted' ? token.text.replace(/^(?:[uU]&)?"|"$/g, '').replaceAll('""', '"') : undefined;
}
