import type { Extension } from '@codemirror/state';
import { RangeSetBuilder, StateEffect, StateField } from '@codemirror/state';
import type { DecorationSet, ViewUpdate } from '@codemirror/view';
import { Decoration, EditorView, ViewPlugin } from '@codemirror/view';
import type { Parameter, Problem, Schema } from '@cendra/core';
import { fieldByName, functionByName, isReserved, isWindowFunction, tokenize } from '@cendra/core';

const mark = (className: string) => Decoration.mark({ class: className });
const LOOKS = {
  word: mark('expression-word'),
  function: mark('expression-function'),
  text: mark('expression-text'),
  parameter: mark('expression-parameter'),
  calculated: mark('expression-calculated'),
};

/** What names stand for. */
export interface Colours {
  readonly schema: Schema;
  readonly parameters: readonly Parameter[];
  /** Ids of calculated fields. */
  readonly calculated: ReadonlySet<string>;
}

/** Words, functions, texts, parameters and calculated fields in their colours. */
export function colouring(colours: Colours): Extension {
  const colour = (view: EditorView): DecorationSet => {
    const builder = new RangeSetBuilder<Decoration>();
    const { tokens } = tokenize(view.state.doc.toString());
    tokens.forEach((token, index) => {
      const look = lookOf(token.kind, token.text, tokens[index + 1]?.text, colours);
      if (look && token.to > token.from) builder.add(token.from, token.to, LOOKS[look]);
    });
    return builder.finish();
  };
  return ViewPlugin.fromClass(
    class {
      decorations: DecorationSet;
      constructor(view: EditorView) {
        this.decorations = colour(view);
      }
      update(update: ViewUpdate) {
        if (update.docChanged) this.decorations = colour(update.view);
      }
    },
    { decorations: (plugin) => plugin.decorations },
  );
}

function lookOf(
  kind: string,
  text: string,
  next: string | undefined,
  { schema, parameters, calculated }: Colours,
): keyof typeof LOOKS | undefined {
  if (kind === 'string') return 'text';
  if (kind === 'parameter') return parameters.some((each) => each.name === text) ? 'parameter' : undefined;
  if (kind !== 'name' && kind !== 'quoted') return undefined;
  if (kind === 'name' && next === '(' && (functionByName(text.toLowerCase()) ?? isWindowFunction(text.toLowerCase()))) return 'function';
  if (kind === 'name' && isReserved(text)) return 'word';
  const field = fieldByName(schema, text, kind === 'quoted');
  return field && calculated.has(field.id) ? 'calculated' : undefined;
}

/** The problems to mark. */
export const setMarks = StateEffect.define<readonly Problem[]>();

/** A wavy line under what is wrong. */
export const marks = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(old, transaction) {
    let next = old.map(transaction.changes);
    for (const effect of transaction.effects) if (effect.is(setMarks)) next = marksOf(effect.value, transaction.state.doc.length);
    return next;
  },
  provide: (field) => EditorView.decorations.from(field),
});

const WRONG = mark('expression-wrong');

/** Overlapping problems are marked once. */
function marksOf(problems: readonly Problem[], length: number): DecorationSet {
  const places = problems
    .flatMap(({ place: { position }, severity }) => {
      if (!position || severity !== 'error' || length === 0) return [];
      const from = Math.min(position.from, length - 1);
      return [{ from, to: Math.min(Math.max(position.to, from + 1), length) }];
    })
    .toSorted((a, b) => a.from - b.from);
  const builder = new RangeSetBuilder<Decoration>();
  let marked = 0;
  for (const { from, to } of places) {
    if (to > marked) builder.add(Math.max(from, marked), to, WRONG);
    marked = Math.max(marked, to);
  }
  return builder.finish();
}
