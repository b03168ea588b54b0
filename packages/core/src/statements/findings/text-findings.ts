import type { Problem } from '../../problem';
import type { ParsedText } from '../grammar';
import { saying, tokensOf } from '../tokens';
import type { TextContext } from './looked-at';
import { LookedAt } from './looked-at';
import { findingsOfParameters } from './of-parameters';
import { findingsOfRows } from './of-rows';
import { findingsOfValues } from './of-values';
import { selectsOf } from './selects';

/**
 * What is worth a look in a text that can be read, in the order it stands. `form` is the text as the grammar took it, each
 * character at its place. `instead` of a finding mends it: written over its position, the finding is gone.
 */
export function textFindings(
  text: string,
  form: string,
  parsed: ParsedText & { readonly ok: true },
  context: TextContext,
): readonly Problem[] {
  const [first] = parsed.statements;
  if (!first) return [];
  const looked = new LookedAt(text, saying(tokensOf(text)), first.tree, context, form);
  const found = selectsOf(looked).flatMap((select) => [...findingsOfRows(looked, select), ...findingsOfValues(looked, select)]);
  return [...found, ...findingsOfParameters(looked)].toSorted((a, b) => (a.place.position?.from ?? 0) - (b.place.position?.from ?? 0));
}
