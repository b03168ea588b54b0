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
  /**
   * What is used when no value is given: values in wire form or relative dates; one item, several, or the two ends of a
   * range, which one relative stretch gives as well. Empty for none.
   */
  readonly startsAs: readonly string[];
  /** Left out, `startsAs` holds values. Else it holds expressions without fields, or nothing: the first of the choices is taken. */
  readonly startsBy?: StartsBy;
  readonly hint: string;
  readonly choices?: Choices;
  readonly limits?: Limits;
  /** Its values never stand in an address and are never remembered. */
  readonly isPrivate?: boolean;
}

export const STARTS_BY = ['expression', 'first choice'] as const;
export type StartsBy = (typeof STARTS_BY)[number];

export interface Choice {
  readonly value: string;
  /** Empty where the value speaks for itself. */
  readonly label: string;
}

export const CHOICES_SORTED = ['by label', 'by value', 'most rows first'] as const;

/** What is offered for a parameter. Typed ones come in the order they were typed. */
export type Choices =
  | { readonly from: 'typed'; readonly items: readonly Choice[] }
  | ({ readonly from: 'field'; readonly field: string; readonly label: string | null } & Offered)
  | ({ readonly from: 'dataset'; readonly dataset: string; readonly field: string; readonly label: string | null } & Offered)
  /** A table of a source, whatever the steps read: its fields are told by the names of its columns. */
  | ({ readonly from: 'table'; readonly table: ChoicesTable; readonly field: string; readonly label: string | null } & Offered);

/** A table choices are read from, with the columns that are looked at. */
export interface ChoicesTable {
  readonly source: string;
  readonly schema: string;
  readonly table: string;
  readonly columns: readonly ChoicesColumn[];
}

export interface ChoicesColumn {
  readonly name: string;
  readonly sourceType: string;
  readonly type: FieldType;
  readonly looseText: boolean;
}

interface Offered {
  readonly sorted: (typeof CHOICES_SORTED)[number];
  readonly narrowedBy: readonly Narrowing[];
}

/** Only choices of rows whose field has the value of another parameter; a blank one narrows nothing. */
export interface Narrowing {
  readonly parameter: string;
  readonly field: string;
}

export interface Limits {
  /** Least and greatest value, in wire form or a relative day. */
  readonly least?: string;
  readonly greatest?: string;
  /** A pattern as `fits` takes it. */
  readonly fits?: string;
  /** How many values at most. */
  readonly most?: number;
  /** What is said when a value breaks a limit; left out, a sentence is made. */
  readonly message?: string;
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

/** The parameters, some of them switching their conditions off when they are left blank. */
export const switchingOff = (parameters: readonly Parameter[], off: readonly string[]): readonly Parameter[] =>
  parameters.map((each) => (off.includes(each.id) ? { ...each, leftBlank: 'condition is off' } : each));

/** The parameter without anything a value could be seen in. */
export function parameterWithoutValues({ choices, limits: _limits, ...parameter }: Parameter): Parameter {
  const shape = { ...parameter, startsAs: [] };
  if (choices === undefined) return shape;
  return { ...shape, choices: choices.from === 'typed' ? { ...choices, items: [] } : choices };
}

export const PARAMETER_NAME = /^[\p{L}_][\p{L}\p{N}_]*$/u;
