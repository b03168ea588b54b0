import type { FieldType, TypeKind } from '../fields';
import { date, datetime, decimal, text, whole, yesno } from '../fields';

export const PARAMETER_TYPES = ['text', 'whole number', 'decimal', 'date', 'date-time', 'yes/no'] as const;
export type ParameterType = (typeof PARAMETER_TYPES)[number];

export const TAKES = ['one', 'several', 'range'] as const;
export type Takes = (typeof TAKES)[number];

/** What it means when a parameter is left blank. */
export const BLANKS = ['must be filled', 'condition is off', 'matches empty'] as const;
export type LeftBlank = (typeof BLANKS)[number];

export interface Parameter {
  readonly id: string;
  /** Written `:name` in sentences, expressions and SQL. */
  readonly name: string;
  readonly type: ParameterType;
  readonly takes: Takes;
  readonly leftBlank: LeftBlank;
  /** The value used when none is given, in wire form: one item, several, or the two ends of a range. Empty for none. */
  readonly startsAs: readonly string[];
  readonly hint: string;
}

const TYPES: Record<ParameterType, FieldType> = {
  text,
  'whole number': whole,
  decimal: decimal(18, 6),
  date,
  'date-time': datetime,
  'yes/no': yesno,
};

const WORD_OF: Record<TypeKind, ParameterType> = {
  text: 'text',
  json: 'text',
  time: 'text',
  whole: 'whole number',
  decimal: 'decimal',
  float: 'decimal',
  yesno: 'yes/no',
  date: 'date',
  datetime: 'date',
  instant: 'date',
};

export function parameterType(parameter: Parameter): FieldType {
  return TYPES[parameter.type];
}

/** The type of a parameter that is compared with a field of this type; dates suit date-times because they mean whole days. */
export function parameterTypeFor(type: FieldType): ParameterType {
  return WORD_OF[type.kind];
}

export const PARAMETER_NAME = /^[\p{L}_][\p{L}\p{N}_]*$/u;
