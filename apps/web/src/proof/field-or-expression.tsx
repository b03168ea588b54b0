import { useState } from 'react';
import type { Edit, FieldId, SheetField } from '@cendra/core';
import { calculatedAtEnd, notCalculated, takeFieldEdits } from '@cendra/core';
import { mint } from '../bench/mint';
import { ChoiceSlot, TextSlot } from '../bench/slots';
import type { Bench } from '../bench/use-bench';
import type { FieldWords } from './field-words';

const AN_EXPRESSION = 'an expression …';

/** What the slots of the sentence choose fields from. */
export interface FieldChoices {
  readonly bench: Bench;
  readonly handed: readonly SheetField[];
  /** Fields that are not taken yet and can be; choosing one takes it. */
  readonly more: readonly SheetField[];
  readonly words: FieldWords;
  readonly locked: boolean;
}

interface FieldOrExpressionProps extends Omit<FieldChoices, 'handed' | 'more'> {
  readonly label: string;
  /** Left out: none is chosen. */
  readonly value?: FieldId | undefined;
  readonly offered: readonly FieldId[];
  /** What stands in it where no field is chosen. */
  readonly empty?: string;
  readonly wrong?: boolean;
  /** What can be chosen in the place of a field, before them. */
  readonly others?: readonly { readonly says: string; readonly choose: () => void }[];
  /** How a field is called here; by its label unless this says otherwise. */
  readonly says?: (field: FieldId) => string;
  /** With the edits that come before, by which it is handed over: where it is not taken yet, or made of an expression. */
  readonly onField: (field: SheetField, before: readonly Edit[]) => void;
}

/** One of the fields, or an expression over them: that becomes a calculated field of the dataset, behind everything. */
export function FieldOrExpression({
  bench,
  label,
  value,
  offered,
  empty,
  wrong = false,
  others = [],
  words,
  says = words.of,
  locked,
  onField,
}: FieldOrExpressionProps) {
  const [writing, setWriting] = useState(false);
  const choose = (said: string) => {
    const other = others.find((each) => each.says === said);
    const field = offered.find((each) => says(each) === said);
    const chosen = field === undefined ? undefined : words.field(words.of(field));
    if (said === AN_EXPRESSION) setWriting(true);
    else if (other) other.choose();
    else if (chosen) onField(chosen, chosen.forUseOnly ? takeFieldEdits(bench.trail, chosen.id) : []);
  };
  if (!writing)
    return (
      <ChoiceSlot
        label={label}
        value={value === undefined ? '' : says(value)}
        {...(empty === undefined ? {} : { empty })}
        choices={[...others.map((each) => each.says), ...offered.map(says), ...(locked ? [] : [AN_EXPRESSION])]}
        wrong={wrong}
        disabled={locked}
        onChange={choose}
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
