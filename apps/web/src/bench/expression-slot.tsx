import type { ExpressionText, Field, Schema } from '@cendra/core';
import { fieldById, fieldOfText, fieldText, linkReferences } from '@cendra/core';
import { FieldSlot } from './field-slot';
import { TextSlot } from './slots';
import type { Bench } from './use-bench';

interface ExpressionSlotProps {
  readonly bench: Bench;
  readonly label: string;
  readonly value: ExpressionText;
  readonly schema: Schema;
  /** The fields among them that are offered; any other is written. */
  readonly offered?: Schema;
  readonly wrong?: boolean;
  readonly autoFocus?: boolean;
  /** The field, where it is one. */
  readonly onKeep: (text: ExpressionText, field?: Field) => void;
}

/** A field found by its name, or an expression. */
export function ExpressionSlot({
  bench,
  label,
  value,
  schema,
  offered = schema,
  wrong = false,
  autoFocus = false,
  onKeep,
}: ExpressionSlotProps) {
  const field = plainField(value, schema);
  const { parameters } = bench.trail.definition;
  const write = (text: string) => onKeep(linkReferences(text, { schema, parameters }));
  if (field || value.text === '')
    return (
      <FieldSlot
        label={label}
        schema={field && !offered.fields.includes(field) ? { fields: [...offered.fields, field] } : offered}
        field={field}
        missing={false}
        disabled={bench.withoutValues}
        autoFocus={autoFocus}
        onField={(each) => onKeep(fieldText(each), each)}
        onExpression={write}
      />
    );
  return (
    <TextSlot
      label={label}
      value={value.text}
      placeholder="field, or an expression"
      look="font-mono"
      wrong={wrong}
      disabled={bench.withoutValues}
      onKeep={write}
    />
  );
}

/** The field a text is, where it is nothing but one of the schema. */
export function plainField(text: ExpressionText, schema: Schema): Field | undefined {
  const id = fieldOfText(text);
  return id === undefined ? undefined : fieldById(schema, id);
}
