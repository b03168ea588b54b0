import { z } from 'zod';
import { typeShape } from '../fields';
import { idShape as id } from '../ids';
import type { Choices, ChoicesTable, Limits, Parameter } from './parameter';
import { BLANKS, CHOICES_SORTED, PARAMETER_NAME, PARAMETER_TYPES, STARTS_BY, TAKES } from './parameter';

const value = z.string().max(10_000);
const offered = {
  field: z.string().max(64),
  label: id.nullable(),
  sorted: z.enum(CHOICES_SORTED),
  narrowedBy: z.array(z.strictObject({ parameter: id, field: id })).max(10),
};

const column = z.string().min(1).max(256);
const tableShape: z.ZodType<ChoicesTable> = z.strictObject({
  source: id,
  schema: column,
  table: column,
  columns: z.array(z.strictObject({ name: column, sourceType: z.string().max(300), type: typeShape, looseText: z.boolean() })).max(2_000),
});

const choicesShape: z.ZodType<Choices> = z.discriminatedUnion('from', [
  z.strictObject({ from: z.literal('typed'), items: z.array(z.strictObject({ value, label: z.string().max(1_000) })).max(5_000) }),
  z.strictObject({ from: z.literal('field'), ...offered }),
  z.strictObject({ from: z.literal('dataset'), dataset: id, ...offered }),
  z.strictObject({
    ...offered,
    from: z.literal('table'),
    table: tableShape,
    field: column,
    label: column.nullable(),
    narrowedBy: z.array(z.strictObject({ parameter: id, field: column })).max(10),
  }),
]);

const limitsShape = z.strictObject({
  least: value.optional(),
  greatest: value.optional(),
  fits: z.string().max(1_000).optional(),
  most: z.int().min(1).max(100_000).optional(),
  message: z.string().max(1_000).optional(),
}) as z.ZodType<Limits>;

export const parameterShape = z.strictObject({
  id,
  name: z.string().max(63).regex(PARAMETER_NAME, 'a name of letters, digits and _, beginning with a letter'),
  type: z.enum(PARAMETER_TYPES),
  takes: z.enum(TAKES),
  leftBlank: z.enum(BLANKS),
  startsAs: z.array(value).max(100_000),
  startsBy: z.enum(STARTS_BY).optional(),
  hint: z.string().max(1_000),
  choices: choicesShape.optional(),
  limits: limitsShape.optional(),
  isPrivate: z.boolean().optional(),
}) as z.ZodType<Parameter>;
