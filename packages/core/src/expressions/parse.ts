import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Token } from './tokens';
import { tokenize } from './tokens';
import type { Arithmetic, Comparison, Tree } from './tree';

export interface Parsed {
  readonly tree: Tree;
  readonly problems: readonly Problem[];
}

/** Deeper nesting than this is refused; it keeps every later stage's recursion within bounds. */
export const MAX_DEPTH = 200;

const RESERVED = new Set(['and', 'or', 'not', 'is', 'null', 'between', 'in', 'like', 'escape', 'true', 'false']);
const COMPARISONS: readonly string[] = ['=', '<>', '<', '<=', '>', '>='];
const DATED = new Set(['date', 'time', 'timestamp']);

export function isReserved(name: string): boolean {
  return RESERVED.has(name.toLowerCase());
}

/**
 * Text to tree, by the precedence of the SQL standard: or, and, not, comparison and predicates,
 * sums, products, sign. A tree always comes back; where something is missing or unexpected there is
 * a problem with its position, and reading goes on behind it.
 */
export function parseExpression(source: string): Parsed {
  const { tokens, problems: lexical } = tokenize(source);
  return new Parser(tokens, [...lexical]).whole();
}

class Parser {
  private at = 0;
  private depth = 0;

  constructor(
    private readonly tokens: readonly Token[],
    private readonly problems: Problem[],
  ) {}

  whole(): Parsed {
    const tree = this.disjunction();
    const rest = this.peek();
    if (rest.kind !== 'end') this.unexpected(rest, 'an operator, such as + or and, or the end of the expression');
    return { tree, problems: this.problems };
  }

  private disjunction(): Tree {
    return this.chain('or', () => this.chain('and', () => this.negation()));
  }

  /** `a and b and c` becomes one node with three items, so long chains stay flat. */
  private chain(word: 'and' | 'or', next: () => Tree): Tree {
    const first = next();
    const items = [first];
    while (this.takeWord(word)) items.push(next());
    const last = items[items.length - 1] ?? first;
    return items.length === 1 ? first : { node: word, items, from: first.from, to: last.to };
  }

  private negation(): Tree {
    const token = this.peek();
    if (!this.takeWord('not')) return this.predicate();
    const of = this.nested(() => this.negation());
    return { node: 'not', of, from: token.from, to: of.to };
  }

  private predicate(): Tree {
    const left = this.sum();
    const token = this.peek();
    if (token.kind === 'operator' && COMPARISONS.includes(token.text)) {
      this.at++;
      const right = this.sum();
      return { node: 'compare', operator: token.text as Comparison, left, right, from: left.from, to: right.to };
    }
    if (this.takeWord('is')) {
      const negated = this.takeWord('not');
      this.expectWord('null');
      return { node: 'isNull', of: left, negated, from: left.from, to: this.lastEnd() };
    }
    const negated = this.isWord(token, 'not') && this.startsPredicate(this.peek(1));
    if (negated) this.at++;
    if (this.takeWord('between')) return this.between(left, negated);
    if (this.takeWord('in')) return this.membership(left, negated);
    if (this.takeWord('like')) return this.like(left, negated);
    return left;
  }

  private startsPredicate(token: Token): boolean {
    return ['between', 'in', 'like'].some((word) => this.isWord(token, word));
  }

  private between(of: Tree, negated: boolean): Tree {
    const low = this.sum();
    this.expectWord('and');
    const high = this.sum();
    return { node: 'between', of, low, high, negated, from: of.from, to: high.to };
  }

  private membership(of: Tree, negated: boolean): Tree {
    if (this.peek().kind === 'parameter') {
      const item = this.primary();
      return { node: 'in', of, items: [item], negated, from: of.from, to: item.to };
    }
    this.expectSign('(');
    const items = [this.sum()];
    while (this.takeSign(',')) items.push(this.sum());
    this.expectSign(')');
    return { node: 'in', of, items, negated, from: of.from, to: this.lastEnd() };
  }

  private like(of: Tree, negated: boolean): Tree {
    const pattern = this.sum();
    const escape = this.takeWord('escape') ? this.primary() : undefined;
    const to = this.lastEnd();
    return escape
      ? { node: 'like', of, pattern, escape, negated, from: of.from, to }
      : { node: 'like', of, pattern, negated, from: of.from, to };
  }

  private sum(): Tree {
    return this.leftChain(['+', '-'], () => this.leftChain(['*', '/'], () => this.sign()));
  }

  private leftChain(operators: readonly string[], next: () => Tree): Tree {
    let left = next();
    let links = 0;
    for (;;) {
      const token = this.peek();
      if (token.kind !== 'operator' || !operators.includes(token.text)) return left;
      if (++links > MAX_DEPTH) {
        this.tooDeep(token);
        return left;
      }
      this.at++;
      const right = next();
      left = { node: 'arithmetic', operator: token.text as Arithmetic, left, right, from: left.from, to: right.to };
    }
  }

  private sign(): Tree {
    const token = this.peek();
    if (this.takeSign('+')) return this.nested(() => this.sign());
    if (!this.takeSign('-')) return this.primary();
    const of = this.nested(() => this.sign());
    return { node: 'negate', of, from: token.from, to: of.to };
  }

  private primary(): Tree {
    const token = this.peek();
    const { from, to } = token;
    switch (token.kind) {
      case 'number':
      case 'string':
        this.at++;
        return { node: token.kind, text: token.text, from, to };
      case 'quoted':
        this.at++;
        return { node: 'name', name: token.text, quoted: true, from, to };
      case 'parameter':
        this.at++;
        return { node: 'parameter', name: token.text, from, to };
      case 'name':
        return this.word(token);
      default:
        return this.takeSign('(') ? this.parenthesis() : this.missing(token, 'a field, a value, a parameter or (');
    }
  }

  private word(token: Token): Tree {
    const { from, to } = token;
    const word = token.text.toLowerCase();
    if (DATED.has(word) && this.peek(1).kind === 'string') {
      const value = this.peek(1);
      this.at += 2;
      return { node: 'dated', type: word as 'date', text: value.text, from, to: value.to };
    }
    if (word === 'true' || word === 'false' || word === 'null') {
      this.at++;
      return { node: 'constant', value: word === 'null' ? null : word === 'true', from, to };
    }
    if (RESERVED.has(word))
      return this.missing(token, 'a field, a value or a parameter before this word; a field of this name is written in double quotes');
    this.at++;
    return { node: 'name', name: token.text, quoted: false, from, to };
  }

  private parenthesis(): Tree {
    const inner = this.nested(() => this.disjunction());
    this.expectSign(')');
    return inner;
  }

  private nested(read: () => Tree): Tree {
    if (this.depth >= MAX_DEPTH) {
      const token = this.peek();
      this.tooDeep(token);
      this.at = this.tokens.length - 1;
      return { node: 'missing', from: token.from, to: token.to };
    }
    this.depth++;
    const tree = read();
    this.depth--;
    return tree;
  }

  private tooDeep(token: Token): void {
    this.report(
      'expression-too-deep',
      `This expression is nested more than ${MAX_DEPTH} levels deep.`,
      token,
      'a flatter one, or several calculated fields',
    );
    this.at = this.tokens.length - 1;
  }

  private missing(token: Token, expected: string): Tree {
    this.unexpected(token, expected);
    if (token.kind === 'operator' && token.text !== ')' && token.text !== ',') this.at++;
    return { node: 'missing', from: token.from, to: token.to };
  }

  private unexpected(token: Token, expected: string): void {
    const message = token.kind === 'end' ? 'The expression ends too early.' : `“${token.text}” is not expected here.`;
    this.report('expression-unexpected', message, token, expected);
  }

  private report(code: string, message: string, token: Token, expected: string): void {
    this.problems.push(problem(code, message, { position: { from: token.from, to: token.to } }, expected));
  }

  private peek(ahead = 0): Token {
    const token = this.tokens[Math.min(this.at + ahead, this.tokens.length - 1)];
    if (!token) throw new RangeError('the token list always ends with an end token');
    return token;
  }

  private lastEnd(): number {
    return this.tokens[this.at - 1]?.to ?? 0;
  }

  private isWord(token: Token, word: string): boolean {
    return token.kind === 'name' && token.text.toLowerCase() === word;
  }

  private takeWord(word: string): boolean {
    const taken = this.isWord(this.peek(), word);
    if (taken) this.at++;
    return taken;
  }

  private takeSign(sign: string): boolean {
    const token = this.peek();
    const taken = token.kind === 'operator' && token.text === sign;
    if (taken) this.at++;
    return taken;
  }

  private expectWord(word: string): void {
    if (!this.takeWord(word)) this.unexpected(this.peek(), word);
  }

  private expectSign(sign: string): void {
    if (!this.takeSign(sign)) this.unexpected(this.peek(), sign);
  }
}
