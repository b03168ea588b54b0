import type { Problem } from '../problem';
import { isNow, readForm } from './parse-forms';
import { MAX_DEPTH, Reader } from './reader';
import { isReserved } from './reserved';
import type { Token } from './tokens';
import { tokenize } from './tokens';
import type { Arithmetic, Comparison, Tree } from './tree';

export interface Parsed {
  readonly tree: Tree;
  readonly problems: readonly Problem[];
}

const COMPARISONS: readonly string[] = ['=', '<>', '<', '<=', '>', '>='];
const DATED = new Set(['date', 'time', 'timestamp']);
const TRUTHS = new Map<string, true | false | null>([
  ['true', true],
  ['false', false],
  ['unknown', null],
]);

/**
 * Text to tree, by the precedence of the SQL standard: or, and, not, comparison and predicates,
 * sums and joined text, products, sign. A tree always comes back; where something is missing or unexpected
 * there is a problem with its position, and reading goes on behind it.
 */
export function parseExpression(source: string): Parsed {
  const known = recent.get(source);
  if (known) return known;
  const { tokens, problems: lexical } = tokenize(source);
  const parsed = new Parser(new Reader(tokens, [...lexical])).whole();
  const weight = tokens.length + Math.ceil(source.length / 100);
  if (kept + weight > MOST_KEPT) {
    recent.clear();
    kept = 0;
  }
  recent.set(source, parsed);
  kept += weight;
  return parsed;
}

/** A text is parsed several times: to link it, to check it, to find the part at a place, and when others around it change. */
const recent = new Map<string, Parsed>();
let kept = 0;
/** In tokens, each of which comes to a few hundred bytes of tree. */
const MOST_KEPT = 50_000;

class Parser {
  constructor(private readonly reader: Reader) {}

  whole(): Parsed {
    const tree = this.disjunction();
    const rest = this.reader.peek();
    if (rest.kind !== 'end') this.reader.unexpected(rest, 'an operator, such as + or and, or the end of the expression');
    return { tree, problems: this.reader.problems };
  }

  private disjunction(): Tree {
    return this.chain('or', () => this.chain('and', () => this.negation()));
  }

  /** `a and b and c` becomes one node with three items, so long chains stay flat. */
  private chain(word: 'and' | 'or', next: () => Tree): Tree {
    const start = this.reader.peek().from;
    const first = next();
    const items = [first];
    while (this.reader.takeWord(word)) items.push(next());
    return items.length === 1 ? first : { node: word, items, from: start, to: this.reader.lastEnd() };
  }

  private negation(): Tree {
    const token = this.reader.peek();
    if (!this.reader.takeWord('not')) return this.predicate();
    const of = this.reader.nested(() => this.negation());
    return { node: 'not', of, from: token.from, to: this.reader.lastEnd() };
  }

  private predicate(): Tree {
    const { reader } = this;
    const start = reader.peek().from;
    const left = this.sum();
    const token = reader.peek();
    if (token.kind === 'operator' && COMPARISONS.includes(token.text)) {
      reader.next();
      const right = this.sum();
      return { node: 'compare', operator: token.text as Comparison, left, right, from: start, to: reader.lastEnd() };
    }
    if (reader.takeWord('is')) return this.test(left, start);
    const negated = reader.isWord(token, 'not') && this.startsPredicate(reader.peek(1));
    if (negated) reader.next();
    if (reader.takeWord('between')) return this.between(left, negated, start);
    if (reader.takeWord('in')) return this.membership(left, negated, start);
    if (reader.takeWord('like')) return this.like(left, negated, start);
    return left;
  }

  private startsPredicate(token: Token): boolean {
    return ['between', 'in', 'like'].some((word) => this.reader.isWord(token, word));
  }

  /** What may follow `is`: null, a truth value, or `distinct from`. */
  private test(of: Tree, start: number): Tree {
    const { reader } = this;
    const negated = reader.takeWord('not');
    const word = reader.peek().text.toLowerCase();
    if (reader.takeWord('distinct')) {
      reader.expectWord('from');
      const right = this.sum();
      return { node: 'distinct', left: of, right, negated, from: start, to: reader.lastEnd() };
    }
    if (reader.peek().kind === 'name' && TRUTHS.has(word)) {
      reader.next();
      return { node: 'isTruth', of, truth: TRUTHS.get(word) ?? null, negated, from: start, to: reader.lastEnd() };
    }
    reader.expectWord('null');
    return { node: 'isNull', of, negated, from: start, to: reader.lastEnd() };
  }

  private between(of: Tree, negated: boolean, start: number): Tree {
    const low = this.sum();
    this.reader.expectWord('and');
    const high = this.sum();
    return { node: 'between', of, low, high, negated, from: start, to: this.reader.lastEnd() };
  }

  private membership(of: Tree, negated: boolean, start: number): Tree {
    const { reader } = this;
    if (reader.peek().kind === 'parameter') {
      const item = this.primary();
      return { node: 'in', of, items: [item], negated, from: start, to: item.to };
    }
    reader.expectSign('(');
    const items = [this.sum()];
    while (reader.takeSign(',')) items.push(this.sum());
    reader.expectSign(')');
    return { node: 'in', of, items, negated, from: start, to: reader.lastEnd() };
  }

  private like(of: Tree, negated: boolean, start: number): Tree {
    const pattern = this.sum();
    const escape = this.reader.takeWord('escape') ? this.primary() : undefined;
    const to = this.reader.lastEnd();
    return escape
      ? { node: 'like', of, pattern, escape, negated, from: start, to }
      : { node: 'like', of, pattern, negated, from: start, to };
  }

  private sum(): Tree {
    return this.leftChain(['+', '-', '||'], () => this.leftChain(['*', '/'], () => this.sign()));
  }

  private leftChain(operators: readonly string[], next: () => Tree): Tree {
    const start = this.reader.peek().from;
    let left = next();
    let links = 0;
    for (;;) {
      const token = this.reader.peek();
      if (token.kind !== 'operator' || !operators.includes(token.text)) return left;
      if (++links > MAX_DEPTH) {
        this.reader.tooDeep(token);
        return left;
      }
      this.reader.next();
      const right = next();
      const span = { from: start, to: this.reader.lastEnd() };
      left =
        token.text === '||'
          ? { node: 'concat', left, right, ...span }
          : { node: 'arithmetic', operator: token.text as Arithmetic, left, right, ...span };
    }
  }

  private sign(): Tree {
    const { reader } = this;
    const token = reader.peek();
    if (reader.takeSign('+')) return reader.nested(() => this.sign());
    if (!reader.takeSign('-')) return this.primary();
    const of = reader.nested(() => this.sign());
    return { node: 'negate', of, from: token.from, to: of.to };
  }

  private primary(): Tree {
    const { reader } = this;
    const token = reader.peek();
    const { from, to } = token;
    switch (token.kind) {
      case 'number':
      case 'string':
        reader.next();
        return { node: token.kind, text: token.text, from, to };
      case 'quoted':
        reader.next();
        return { node: 'name', name: token.text, quoted: true, from, to };
      case 'parameter':
        reader.next();
        return { node: 'parameter', name: token.text, from, to };
      case 'name':
        return this.word(token);
      default:
        return reader.takeSign('(') ? this.parenthesis() : reader.missing(token, 'a field, a value, a parameter or (');
    }
  }

  private word(token: Token): Tree {
    const { reader } = this;
    const { from, to } = token;
    const word = token.text.toLowerCase();
    const follower = reader.peek(1);
    if (DATED.has(word) && follower.kind === 'string') {
      reader.next();
      reader.next();
      return { node: 'dated', type: word as 'date', text: follower.text, from, to: follower.to };
    }
    if (word === 'true' || word === 'false' || word === 'null') {
      reader.next();
      return { node: 'constant', value: word === 'null' ? null : word === 'true', from, to };
    }
    if (isNow(word)) {
      reader.next();
      return { node: 'now', word, from, to };
    }
    const form = readForm(reader, { whole: () => this.disjunction(), sum: () => this.sum() });
    if (form) return form;
    if (isReserved(word))
      return reader.missing(token, 'a field, a value or a parameter before this word; a field of this name is written in double quotes');
    reader.next();
    return { node: 'name', name: token.text, quoted: false, from, to };
  }

  private parenthesis(): Tree {
    const inner = this.reader.nested(() => this.disjunction());
    this.reader.expectSign(')');
    return inner;
  }
}
