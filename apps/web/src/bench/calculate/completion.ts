import type { Completion, CompletionContext, CompletionResult } from '@codemirror/autocomplete';
import { snippet } from '@codemirror/autocomplete';
import type { Parameter, Schema } from '@cendra/core';
import { FUNCTIONS, typeWord, WINDOWS, writtenName } from '@cendra/core';

/** What is offered while a word is typed: fields, functions with how they are written, parameters, and forms. */
export function completionsOf(
  context: CompletionContext,
  { schema, parameters }: { readonly schema: Schema; readonly parameters: readonly Parameter[] },
): CompletionResult | null {
  const before = context.matchBefore(/:[\p{L}\p{N}_]*|"[^"]*|[\p{L}_][\p{L}\p{N}\p{M}_$]*/u);
  if (!before && !context.explicit) return null;
  const text = before?.text ?? '';
  const from = before?.from ?? context.pos;
  if (insideText(context.state.sliceDoc(0, from))) return null;
  const named = parameters.map((each): Completion => ({ label: `:${each.name}`, detail: `${each.type}, parameter`, boost: 1 }));
  if (text.startsWith(':')) return { from, options: named, validFor: /^:[\p{L}\p{N}_]*$/u };
  const fields = schema.fields.map((each): Completion => {
    const written = writtenName('field', each.name);
    return {
      label: text.startsWith('"') ? `"${each.name.replaceAll('"', '""')}"` : written,
      displayLabel: each.name,
      detail: typeWord(each.type),
      boost: 2,
    };
  });
  if (text.startsWith('"')) return { from, options: fields };
  return { from, options: [...fields, ...FUNCTION_COMPLETIONS, ...FORMS, ...named], validFor: /^[\p{L}_][\p{L}\p{N}\p{M}_$]*$/u };
}

/** A skeleton as the editor takes it: Tab goes through its places, and what it puts in braces is not of it. */
export const skeletonText = (skeleton: string) => skeleton.replace(/[{}\\]/g, '\\$&').replaceAll('…', '${}');

/** An odd number of quotes before a place means it is inside a text. */
const insideText = (before: string) => (before.match(/'/g)?.length ?? 0) % 2 === 1;

const FUNCTION_COMPLETIONS: readonly Completion[] = [...FUNCTIONS, ...WINDOWS]
  .filter((each, index, all) => all.findIndex((other) => word(other.name) === word(each.name)) === index)
  .map(({ name, signature, says }) => ({
    label: word(name),
    detail: signature.slice(word(name).length),
    info: `Gives ${says}.`,
    apply: `${word(name)}(`,
  }));

function word(name: string): string {
  return name.split(' ')[0] ?? name;
}

const FORMS: readonly Completion[] = [
  {
    label: 'case',
    detail: ' when … then … else … end',
    info: 'Gives the first outcome whose condition is true.',
    apply: snippet(skeletonText('case when … then … else … end')),
  },
  { label: 'cast', detail: '(… as decimal(12,2))', info: 'Gives the value as another type, or null where it is none.', apply: 'cast(' },
  { label: 'interval', detail: " '3' day", info: 'Gives a length of time to add to a date.', apply: "interval '" },
  ...[
    'current_date',
    'localtimestamp',
    'and',
    'or',
    'not',
    'is null',
    'between',
    'in',
    'like',
    'then',
    'else',
    'end',
    'over',
    'partition by',
    'order by',
  ].map((label): Completion => ({ label, boost: -1 })),
];
