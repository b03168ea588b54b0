import type { Problem } from '../problem';
import { problem } from '../problem';
import type { Parse } from './grammar';
import { wordAt } from './grammar';
import { guard } from './guard';
import { inPlace } from './in-place';
import { statementsIn } from './split';
import { tokensOf } from './tokens';

/** What the grammar says of a text: where it cannot be read, and what in it does more than read. */
export function checkText(text: string, parse: Parse): readonly Problem[] {
  const [statement, second] = statementsIn(tokensOf(text));
  if (!statement || second) return [];
  const form = inPlace(text, statement);
  const parsed = parse(form);
  return parsed.ok ? guard(form, parsed).problems : [brokenText(text, parsed)];
}

/** Where a text cannot be read by the grammar, with the grammar's own words. */
export function brokenText(text: string, { message, offset }: { readonly message: string; readonly offset: number }): Problem {
  const position = wordAt(text, offset);
  const found = problem('text-broken', 'The statement cannot be read from here on.', { position }, 'what the grammar allows at this place');
  return { ...found, detail: message };
}
