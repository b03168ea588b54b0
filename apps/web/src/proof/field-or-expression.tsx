import { useState } from 'react';
import type { Edit, FieldId, SheetField } from '@cendra/core';
import { calculatedAtEnd, notCalculated, takeFieldEdits } from '@cendra/core';
import { mint } from '../bench/mint';
import { ChoiceSlot, TextSlot } from '../bench/slots';
import type { Bench } from '../bench/use-bench';
import type { FieldWords } from './field-words';

const AN_EXPRESSION = 'an expression …';

interface FieldOrExpressionProps {
  readonly bench: Bench;
  readonly label: string;
  readonly value: FieldId;
  readonly offered: readonly FieldId[];
  readonly words: FieldWords;
  readonly locked: boolean;
  /** With the edits that come before, by which it is handed over: where it is not taken yet, or made of an expression. */
  readonly onField: (field: SheetField, before: readonly Edit[]) => void;
}

/** One of the fields, or an expression over them: that becomes a calculated field of the dataset, behind everything. */
export function FieldOrExpression({ bench, label, value, offered, words, locked, onField }: FieldOrExpressionProps) {
  const [writing, setWriting] = useState(false);
  if (!writing)
    return (
      <ChoiceSlot
        label={label}
        value={words.of(value)}
        choices={[...offered.map(words.of), ...(locked ? [] : [AN_EXPRESSION])]}
        disabled={locked}
        onChange={(word) => {
          const field = words.field(word);
          if (word === AN_EXPRESSION) setWriting(true);
          else if (field) onField(field, field.forUseOnly ? takeFieldEdits(bench.trail, field.id) : []);
        }}
      />
    );
  return (
    <span
      onKeyDown={(event) => event.key === 'Escape' && setWriting(false)}
      onBlur={(event) => (event.target as HTMLInputElement).value === '' && setWriting(false)}
    >
      <TextSlot
        label={`Expression for ${label.charAt(0).toLowerCase()}${label.slice(1)}`}
        value=""
        placeholder="an expression, such as kilos * 2"
        look="font-mono"
        disabled={false}
        autoFocus
        refuses={(text) => (text.trim() === '' ? undefined : notCalculated(bench.trail, text)?.message)}
        onKeep={(text) => {
          const made = calculatedAtEnd(bench.trail, text, mint);
          setWriting(false);
          if (made) onField(made.field, made.edits);
        }}
      />
    </span>
  );
}
