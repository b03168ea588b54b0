import type { Problem, Span } from '../problem';
import { problem } from '../problem';

export type TokenKind = 'number' | 'string' | 'name' | 'quoted' | 'parameter' | 'operator' | 'end';

export interface Token extends Span {
  readonly kind: TokenKind;
  /** What it stands for: the unquoted name, the text of a string, the lower-cased word of a keyword-like name stays as typed. */
  readonly text: string;
  /** The lower-cased word of a name that is not quoted; else nothing. Readers compare it at every token, several times. */
  readonly word: string;
}

/** Longer numerals are read in pieces, of which the second is then out of place. */
const LONGEST_NUMERAL = 400;

/** More tokens than this is refused before any work is done on them. */
export const MAX_TOKENS = 5_000;

const SPACE = /\s/u;
const NAME_START = /[\p{L}_]/u;
const NAME_REST = /[\p{L}\p{N}\p{M}_$]*/uy;
const NUMBER = /(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?/y;

/** Where a sticky expression stops matching from a place on. */
function endOf(expression: RegExp, source: string, at: number): number {
  expression.lastIndex = at;
  return at + (expression.exec(source)?.[0].length ?? 0);
}
const OPERATORS = ['<=', '>=', '<>', '!=', '||', '+', '-', '*', '/', '=', '<', '>', '(', ')', ',', '.'];

/** Text to tokens. Always ends with an `end` token; what cannot be read becomes a problem and is skipped. */
export function tokenize(source: string): { readonly tokens: readonly Token[]; readonly problems: readonly Problem[] } {
  const tokens: Token[] = [];
  const problems: Problem[] = [];
  let at = 0;
  const fail = (code: string, message: string, from: number, to: number, expected?: string) =>
    problems.push(problem(code, message, { position: { from, to } }, expected));

  while (at < source.length && tokens.length <= MAX_TOKENS) {
    const char = charAt(source, at);
    if (SPACE.test(char)) at += char.length;
    else if (source.startsWith('--', at)) at = lineEnd(source, at);
    else if (char === "'" || char === '"') at = readQuoted(char);
    else if (/[0-9]/.test(char) || (char === '.' && /[0-9]/.test(source[at + 1] ?? ''))) at = readNumber();
    else if (NAME_START.test(char)) at = readName('name', at, at);
    else if (char === ':' && NAME_START.test(charAt(source, at + 1))) at = readName('parameter', at, at + 1);
    else at = readOperator(char);
  }
  if (tokens.length > MAX_TOKENS) {
    tokens.length = MAX_TOKENS;
    fail(
      'expression-too-long',
      `This expression has more than ${MAX_TOKENS} words and signs.`,
      at,
      source.length,
      'a shorter one, or several calculated fields',
    );
  }
  tokens.push({ kind: 'end', text: '', from: source.length, to: source.length, word: '' });
  return { tokens, problems };

  function readQuoted(quote: string): number {
    let end = at + 1;
    for (;;) {
      const close = source.indexOf(quote, end);
      if (close < 0) {
        fail(
          'text-not-closed',
          `The ${quote === "'" ? 'text' : 'name'} that begins here is not closed.`,
          at,
          source.length,
          `a closing ${quote}`,
        );
        end = source.length;
        break;
      }
      end = close + 1;
      if (source[end] !== quote) break;
      end += 1;
    }
    const closed = source[end - 1] === quote && end - 1 > at;
    const inner = source.slice(at + 1, closed ? end - 1 : end).replaceAll(quote + quote, quote);
    tokens.push({ kind: quote === "'" ? 'string' : 'quoted', text: inner, from: at, to: end, word: '' });
    return end;
  }

  function readNumber(): number {
    const end = Math.min(endOf(NUMBER, source, at), at + LONGEST_NUMERAL);
    tokens.push({ kind: 'number', text: source.slice(at, end), from: at, to: end, word: '' });
    return end;
  }

  function readName(kind: 'name' | 'parameter', from: number, start: number): number {
    const end = endOf(NAME_REST, source, start);
    const text = source.slice(start, end);
    tokens.push({ kind, text, from, to: end, word: kind === 'name' ? text.toLowerCase() : '' });
    return end;
  }

  function readOperator(char: string): number {
    const operator = OPERATORS.find((each) => source.startsWith(each, at));
    const end = at + (operator ?? char).length;
    if (operator) tokens.push({ kind: 'operator', text: operator === '!=' ? '<>' : operator, from: at, to: end, word: '' });
    else fail('sign-unknown', `“${char}” has no meaning in an expression.`, at, end);
    return end;
  }
}

const charAt = (source: string, at: number) => (at < source.length ? String.fromCodePoint(source.codePointAt(at) ?? 32) : '');

function lineEnd(source: string, at: number): number {
  const end = source.indexOf('\n', at);
  return end < 0 ? source.length : end + 1;
}
