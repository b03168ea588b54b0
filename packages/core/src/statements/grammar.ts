import type { Span } from '../problem';

/** Any part of a parsed statement: an object with one member, named by its kind, or a plain value. */
export type SyntaxTree = null | boolean | number | string | readonly SyntaxTree[] | { readonly [member: string]: SyntaxTree };

export type ParsedText =
  | { readonly ok: true; readonly statements: readonly ParsedStatement[] }
  /** `offset` is in UTF-16 units. */
  | { readonly ok: false; readonly message: string; readonly offset: number };

export interface ParsedStatement {
  readonly tree: SyntaxTree;
}

/** A source's grammar. Core has none of its own: it is brought by who has room for it. It never throws. */
export type Parse = (text: string) => ParsedText;

/** What the grammar's library gives, and throws: with where, in code points, unless the text is nested deeper than its stack. */
export interface RawGrammar {
  parse(text: string): { readonly stmts?: readonly { readonly stmt?: unknown }[] };
  /** Its tokens, comments among them, by bytes of UTF-8. */
  scan(text: string): { readonly tokens: readonly { readonly start: number; readonly end: number; readonly tokenName: string }[] };
}

/** The grammar as a library has it, as one that never throws. */
export function parseWith(raw: RawGrammar): Parse {
  return (text) => {
    try {
      return parsed(raw, text);
    } catch (error) {
      const without = hasComments(text) ? uncommented(raw, text) : undefined;
      if (without === undefined) return failed(error, text, text);
      try {
        return parsed(raw, without);
      } catch (again) {
        return failed(again, text, without);
      }
    }
  };
}

function parsed(raw: RawGrammar, text: string): ParsedText {
  const { stmts = [] } = raw.parse(text);
  return { ok: true, statements: stmts.map(({ stmt }) => ({ tree: stmt as SyntaxTree })) };
}

/** What is wrong with a text, by the place it has in the one that was given. */
function failed(error: unknown, text: string, read: string): ParsedText {
  const told = (error as { readonly sqlDetails?: { readonly message: string; readonly cursorPosition: number } }).sqlDetails;
  if (!told) return { ok: false, message: error instanceof RangeError ? 'nested too deeply' : String(error), offset: 0 };
  const at = new Offsets(read).ofPoints(Math.max(0, told.cursorPosition));
  const offset =
    read === text ? at : new Offsets(text).ofBytes(Array.from(read.slice(0, at)).reduce((sum, char) => sum + bytesOf(char), 0));
  return { ok: false, message: told.message, offset };
}

const hasComments = (text: string) => /--|\/\*/.test(text);

/**
 * The text with blanks for comments, every byte else at its place. Where two words are read as one, as `nulls last` is, the
 * library does not take them with a comment in between, and its source does. What is a comment its own scanner says.
 */
function uncommented(raw: RawGrammar, text: string): string | undefined {
  let comments: readonly { readonly start: number; readonly end: number }[];
  try {
    comments = raw.scan(text).tokens.filter(({ tokenName }) => COMMENTS.includes(tokenName));
  } catch {
    // It cannot be scanned either.
    return undefined;
  }
  let out = '';
  let bytes = 0;
  let next = 0;
  for (const char of text) {
    while ((comments[next]?.end ?? Infinity) <= bytes) next++;
    const length = bytesOf(char);
    out += bytes >= (comments[next]?.start ?? Infinity) ? ' '.repeat(length) : char;
    bytes += length;
  }
  return out;
}

const COMMENTS: readonly string[] = ['C_COMMENT', 'SQL_COMMENT'];

/** A node of a kind, with its members. */
export interface TreeNode {
  readonly kind: string;
  readonly of: Readonly<Record<string, SyntaxTree>>;
}

const isObject = (tree: SyntaxTree | undefined): tree is { readonly [member: string]: SyntaxTree } =>
  typeof tree === 'object' && tree !== null && !Array.isArray(tree);

/** A tree that is a node: an object whose only member has a kind's name, which begin with a capital. */
export function nodeOf(tree: SyntaxTree | undefined): TreeNode | undefined {
  if (!isObject(tree)) return undefined;
  const [kind, ...others] = Object.keys(tree);
  const of = kind === undefined ? undefined : tree[kind];
  return kind !== undefined && others.length === 0 && /^[A-Z]/.test(kind) && isObject(of) ? { kind, of } : undefined;
}

/** The members of a node of a kind, where it is one. */
export function membersOf(tree: SyntaxTree | undefined, kind: string): TreeNode['of'] | undefined {
  const node = nodeOf(tree);
  return node?.kind === kind ? node.of : undefined;
}

/** Every node of a tree, each before those in it. Depth costs no stack. */
export function* nodesIn(root: SyntaxTree): Generator<TreeNode> {
  const waiting: SyntaxTree[] = [root];
  for (let tree = waiting.pop(); tree !== undefined; tree = waiting.pop()) {
    if (Array.isArray(tree)) {
      for (let at = tree.length - 1; at >= 0; at--) waiting.push((tree as readonly SyntaxTree[])[at] ?? null);
      continue;
    }
    if (!isObject(tree)) continue;
    const node = nodeOf(tree);
    if (node) yield node;
    const members = Object.values(tree);
    for (let at = members.length - 1; at >= 0; at--) waiting.push(members[at] ?? null);
  }
}

export const listOf = (tree: SyntaxTree | undefined): readonly SyntaxTree[] => (Array.isArray(tree) ? (tree as readonly SyntaxTree[]) : []);

/** The texts of a list of names, as `pg_catalog.int4` is one. */
export function namesOf(tree: SyntaxTree | undefined): readonly string[] {
  return listOf(tree).flatMap((each) => {
    const name = membersOf(each, 'String')?.sval;
    return typeof name === 'string' ? [name] : [];
  });
}

/** Conditions joined by `and`. */
export function conjunctsOf(tree: SyntaxTree | undefined): readonly SyntaxTree[] {
  const bool = membersOf(tree, 'BoolExpr');
  if (bool?.boolop === 'AND_EXPR') return listOf(bool.args).flatMap(conjunctsOf);
  return tree === undefined || tree === null ? [] : [tree];
}

/** UTF-8 bytes, code points and UTF-16 units of one text: the grammar counts bytes, servers code points, browsers units. */
export class Offsets {
  private readonly plain: boolean;

  constructor(private readonly text: string) {
    // eslint-disable-next-line no-control-regex -- All of ASCII, where all three are the same.
    this.plain = /^[\x00-\x7f]*$/.test(text);
  }

  /** From bytes of UTF-8, as places in a tree are told. */
  ofBytes(bytes: number): number {
    if (this.plain) return Math.min(bytes, this.text.length);
    let seen = 0;
    let at = 0;
    for (const char of this.text) {
      if (seen >= bytes) break;
      seen += bytesOf(char);
      at += char.length;
    }
    return at;
  }

  /** From code points, counted from 0. */
  ofPoints(points: number): number {
    if (this.plain) return Math.min(points, this.text.length);
    let at = 0;
    let seen = 0;
    for (const char of this.text) {
      if (seen++ >= points) break;
      at += char.length;
    }
    return at;
  }
}

function bytesOf(char: string): number {
  const point = char.codePointAt(0) ?? 0;
  return point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4;
}

/** From an offset to the end of the word or quoted text that begins there, so that it can be marked. */
export function wordAt(text: string, offset: number): Span {
  const from = Math.max(0, Math.min(offset, text.length));
  const length = /^(?:[\p{L}\p{N}_$]+|"[^"]*"|'[^']*'|\S)/u.exec(text.slice(from, from + 200))?.[0].length ?? 0;
  return { from, to: from + length };
}
