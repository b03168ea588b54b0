import { fieldByName } from '../fields';
import type { Span } from '../problem';
import type { ExpressionText, Reference } from './expression';
import { parseExpression } from './parse';
import { isReserved, writtenName } from './reserved';
import type { Scope } from './scope';
import { tokenize } from './tokens';
import type { Tree } from './tree';
import { childrenOf } from './tree';

interface Mention extends Span {
  readonly kind: Reference['kind'];
  readonly name: string;
  readonly quoted: boolean;
}

/** Finds which spans of a typed text mean which field or parameter, also when the text does not parse. */
export function linkReferences(text: string, scope: Scope): ExpressionText {
  const { tree, problems } = parseExpression(text);
  const mentions = problems.length === 0 ? mentionsIn(tree, []) : mentionsTyped(text);
  const refs = mentions.flatMap(({ kind, name, quoted, from, to }): Reference[] => {
    const found =
      kind === 'field'
        ? (fieldByName(scope.schema, name, quoted) ?? scope.absent?.find((each) => each.name === name))
        : scope.parameters.find((each) => each.name === name);
    return found ? [{ kind, id: found.id, from, to }] : [];
  });
  return { text, refs };
}

/** One list for the whole tree, since this is done at every key. */
function mentionsIn(tree: Tree, found: Mention[]): readonly Mention[] {
  const { from, to } = tree;
  if (tree.node === 'name') found.push({ kind: 'field', name: tree.name, quoted: tree.quoted, from, to });
  else if (tree.node === 'parameter') found.push({ kind: 'parameter', name: tree.name, quoted: false, from, to });
  else for (const child of childrenOf(tree)) mentionsIn(child, found);
  return found;
}

/** In a text that does not parse, every word that could be a name; a word before a parenthesis is a function. */
function mentionsTyped(text: string): readonly Mention[] {
  const { tokens } = tokenize(text);
  return tokens.flatMap((token, index): Mention[] => {
    const { from, to, text: name } = token;
    if (token.kind === 'parameter') return [{ kind: 'parameter', name, quoted: false, from, to }];
    if (token.kind === 'quoted') return [{ kind: 'field', name, quoted: true, from, to }];
    const calls = tokens[index + 1]?.text === '(';
    return token.kind === 'name' && !isReserved(name) && !calls ? [{ kind: 'field', name, quoted: false, from, to }] : [];
  });
}

/** A text that is nothing but a field. */
export function fieldText({ id, name }: { readonly id: string; readonly name: string }): ExpressionText {
  const text = writtenName('field', name);
  return { text, refs: [{ kind: 'field', id, from: 0, to: text.length }] };
}

/** The field a text is, where it is nothing but one. */
export function fieldOfText({ text, refs }: ExpressionText): string | undefined {
  const [only] = refs;
  return refs.length === 1 && only?.kind === 'field' && only.from === 0 && only.to === text.length ? only.id : undefined;
}

/** The text with the ids its references mean exchanged. */
export const expressionIds = ({ text, refs }: ExpressionText, idOf: (id: string) => string): ExpressionText => ({
  text,
  refs: refs.map((each) => ({ ...each, id: idOf(each.id) })),
});

/** Whether a span reads as a name, quoted or not and whatever its case. */
const reads = (written: string, name: string) => written.replace(/^:/, '').replace(/^"|"$/g, '').toLowerCase() === name.toLowerCase();

/** Whether some reference to `id` is written with another name than it has. */
export function isMisnamed({ text, refs }: ExpressionText, kind: Reference['kind'], id: string, name: string): boolean {
  return refs.some((ref) => ref.kind === kind && ref.id === id && !reads(text.slice(ref.from, ref.to), name));
}

/** The text with every reference to `id` written as `name`; other spans move along. */
export function renameReference(source: ExpressionText, kind: Reference['kind'], id: string, name: string): ExpressionText {
  let text = '';
  let done = 0;
  const refs: Reference[] = [];
  for (const ref of [...source.refs].sort((a, b) => a.from - b.from)) {
    text += source.text.slice(done, ref.from);
    const written = ref.kind === kind && ref.id === id ? writtenName(kind, name) : source.text.slice(ref.from, ref.to);
    refs.push({ ...ref, from: text.length, to: text.length + written.length });
    text += written;
    done = ref.to;
  }
  return { text: text + source.text.slice(done), refs };
}
