import { fieldByName } from '../fields';
import type { ExpressionText, Reference } from './expression';
import { isReserved } from './parse';
import type { Scope } from './scope';
import { tokenize } from './tokens';

/** Finds which spans of a typed text mean which field or parameter, also when the text does not parse. */
export function linkReferences(text: string, scope: Scope): ExpressionText {
  const refs = tokenize(text).tokens.flatMap((token): Reference[] => {
    const { from, to } = token;
    if (token.kind === 'parameter') {
      const found = scope.parameters.find((each) => each.name === token.text);
      return found ? [{ kind: 'parameter', id: found.id, from, to }] : [];
    }
    if (token.kind !== 'quoted' && (token.kind !== 'name' || isReserved(token.text))) return [];
    const field = fieldByName(scope.schema, token.text, token.kind === 'quoted');
    return field ? [{ kind: 'field', id: field.id, from, to }] : [];
  });
  return { text, refs };
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

/** How a name is written in an expression: quoted when it is no plain identifier. */
export function writtenName(kind: Reference['kind'], name: string): string {
  if (kind === 'parameter') return `:${name}`;
  return /^[\p{L}_][\p{L}\p{N}\p{M}_$]*$/u.test(name) && !isReserved(name) ? name : `"${name.replaceAll('"', '""')}"`;
}
