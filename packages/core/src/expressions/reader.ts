import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Token } from './tokens';
import type { Tree } from './tree';

/** Deeper nesting than this is refused; it keeps every later stage's recursion within bounds. */
export const MAX_DEPTH = 200;

/** Reads tokens one after another and notes what was not expected; reading always goes on. */
export class Reader {
  private at = 0;
  private depth = 0;

  constructor(
    private readonly tokens: readonly Token[],
    readonly problems: Problem[],
  ) {}

  peek(ahead = 0): Token {
    const token = this.tokens[Math.min(this.at + ahead, this.tokens.length - 1)];
    if (!token) throw new RangeError('the token list always ends with an end token');
    return token;
  }

  next(): Token {
    const token = this.peek();
    this.at++;
    return token;
  }

  /** Where the token last read ended. */
  lastEnd(): number {
    return this.tokens[Math.min(this.at, this.tokens.length) - 1]?.to ?? 0;
  }

  isWord(token: Token, word: string): boolean {
    return token.word === word;
  }

  isSign(token: Token, sign: string): boolean {
    return token.kind === 'operator' && token.text === sign;
  }

  takeWord(...words: readonly string[]): boolean {
    for (let index = 0; index < words.length; index++) if (this.peek(index).word !== words[index]) return false;
    this.at += words.length;
    return true;
  }

  takeSign(sign: string): boolean {
    const taken = this.isSign(this.peek(), sign);
    if (taken) this.at++;
    return taken;
  }

  expectWord(...words: readonly string[]): void {
    if (!this.takeWord(...words)) this.unexpected(this.peek(), words.join(' '));
  }

  expectSign(sign: string): void {
    if (!this.takeSign(sign)) this.unexpected(this.peek(), sign);
  }

  /** Reads one level deeper, or refuses. */
  nested(read: () => Tree): Tree {
    if (this.depth >= MAX_DEPTH) {
      const token = this.peek();
      this.tooDeep(token);
      return { node: 'missing', from: token.from, to: token.to };
    }
    this.depth++;
    const tree = read();
    this.depth--;
    return tree;
  }

  tooDeep(token: Token): void {
    this.report(
      'expression-too-deep',
      `This expression is nested more than ${MAX_DEPTH} levels deep.`,
      token,
      'a flatter one, or several calculated fields',
    );
    this.at = this.tokens.length - 1;
  }

  missing(token: Token, expected: string): Tree {
    this.unexpected(token, expected);
    if (token.kind === 'operator' && token.text !== ')' && token.text !== ',') this.at++;
    return { node: 'missing', from: token.from, to: token.to };
  }

  unexpected(token: Token, expected: string): void {
    const message = token.kind === 'end' ? 'The expression ends too early.' : `“${token.text}” is not expected here.`;
    this.report('expression-unexpected', message, token, expected);
  }

  report(code: string, message: string, token: Pick<Token, 'from' | 'to'>, expected: string): void {
    this.problems.push(problem(code, message, { position: { from: token.from, to: token.to } }, expected));
  }
}
