import type { Problem } from '../problem';
import { problem } from '../problem';
import type { TextContext } from './findings';
import { NOTHING_AROUND, textFindings } from './findings';
import type { Parse } from './grammar';
import { wordAt } from './grammar';
import { guard } from './guard';
import { inPlace } from './in-place';
import { statementsIn } from './split';
import { tokensOf } from './tokens';

/** What the grammar says of a text: where it cannot be read, what in it does more than read, else what is worth a look. */
export function checkText(text: string, parse: Parse, context: TextContext = NOTHING_AROUND): readonly Problem[] {
  const [statement, second] = statementsIn(tokensOf(text));
  if (!statement || second) return [];
  const form = inPlace(text, statement);
  const parsed = parse(form);
  if (!parsed.ok) return [brokenText(text, parsed)];
  const { problems } = guard(form, parsed);
  return problems.length > 0 ? problems : textFindings(text, form, parsed, context);
}

/** Where a text cannot be read by the grammar, with the grammar's own words. */
export function brokenText(text: string, { message, offset }: { readonly message: string; readonly offset: number }): Problem {
  const position = wordAt(text, offset);
  const found = problem('text-broken', 'The statement cannot be read from here on.', { position }, 'what the grammar allows at this place');
  return { ...found, detail: message };
}
