import type { z } from 'zod';
import type { Expression, ExpressionText, Reference } from '../expressions';
import type { FieldId, FieldType, Schema } from '../fields';
import type { Binding, Parameter } from '../parameters';
import type { Relation } from '../sql';
import type { Arriving, CheckContext, Checked, InputSlots, Rows, StepBase, StepCheck, StepContext, TableRows } from './step';
import type { Questioning } from './wanted-rows';

/**
 * One kind of step. A new kind is one file with such an object, its line in the registry, an editor and that
 * editor's line: everything else (checking, editing, planning, counting, following, history, evaluation) goes
 * through these members. `S` is the step as it is stored, `C` what checking makes of its parts.
 */
export interface StepKind<S extends StepBase, C> {
  readonly kind: S extends { readonly kind: infer K } ? K : never;
  readonly inputs: InputSlots;
  /** The shape of its part of the definition. */
  readonly shape: z.ZodType<S>;
  /** Its properties that one edit sets as a whole, besides name and off, with what such an edit did in words. */
  readonly properties: Readonly<Record<string, (change: PropertyChange) => string>>;
  /** Its lists whose items are edited one by one. */
  readonly lists: Readonly<Record<string, ItemList>>;

  /** The fields whose ids are minted by the step. */
  mints(step: S): readonly FieldId[];
  /** The sources it reads itself; `ofDataset` gives those of a dataset it stands on. */
  sources(step: S, ofDataset: (dataset: string) => readonly string[]): readonly string[];
  /** Under which id a field that arrives in a slot leaves the step; undefined where it does not. */
  carries(step: S, slot: number, field: FieldId): FieldId | undefined;
  /** What a field it mints is made of. */
  origin(step: S, field: FieldId): FieldOrigin | undefined;

  /** Never runs anything, and gives fields also for a wrong step. */
  check(step: S, arriving: readonly Arriving[], context: CheckContext): StepCheck<C>;
  /** Its name in words, used until it is named by hand. */
  sentence(step: S, arriving: readonly Arriving[], context: StepContext): string;
  /** The parameters in it, each with the words it stands with and what it meets there. */
  mentions(checked: Checked<S, C>, parameters: readonly Parameter[]): readonly ParameterMention[];
  /** What decides in it which rows there are and no reader is asked for, in words; undefined where nothing does. */
  unasked(step: S, arriving: readonly Arriving[], context: StepContext): Unasked | undefined;

  /** What it stands for. Called only for a step without errors that is not off, one relation a slot. */
  relation(checked: Checked<S, C>, inputs: readonly Relation[], binding: Binding): Relation;
  /** Its rows computed in core, the reference the engines are compared with. */
  rows(checked: Checked<S, C>, inputs: readonly Rows[], binding: Binding, tables: TableRows): Rows;
  /** What tells how many rows it gives. */
  readonly counted: Counted<S, C>;
  /** The order its rows are shown in; left out where it makes rows anew, which then have none. */
  readonly order?: (step: S) => 'as it comes' | readonly ShownBy[];
  /** What became of followed rows that arrive in one of its slots. */
  followed(through: Through<S, C>): Questioning<FollowedThrough>;

  /** The expressions written in it. */
  written(step: S): readonly ExpressionText[];
  /** The fields and parameters it mentions. */
  uses(step: S, parameters: readonly Parameter[]): readonly Pick<Reference, 'kind' | 'id'>[];
  /** The step with every written mention of a field or parameter in its new name. */
  renamed(step: S, kind: Reference['kind'], id: string, name: string): S;
  /** The name it gives a field it mints; undefined where that is not its to give. */
  fieldName(step: S, field: FieldId): string | undefined;
  /** The step with such a field called something else. */
  withFieldNamed(step: S, field: FieldId, name: string): S;
  /** The step with ids exchanged: of its fields and items, and of the steps, fields and parameters it mentions. */
  withIds(step: S, idOf: (id: string) => string): S;
  /** The step without the values typed into it, for those who may not see them. */
  withoutValues(step: S): S;
}

/** A condition, as “grade is A”, or what is taken of the rows, as “the first 10 by kilos”. */
export type Unasked = { readonly where: string } | { readonly taken: string };

/** A field rows are shown in the order of. */
export interface ShownBy {
  readonly field: FieldId;
  readonly descending: boolean;
  readonly nullsFirst: boolean;
}

/** A property set as a whole. */
export interface PropertyChange {
  readonly from: unknown;
  readonly to: unknown;
  /** The step's name. */
  readonly title: string;
}

/** An item of a step's list. It is known by its id wherever it stands. */
export interface Item {
  readonly id: string;
}

/** A list of a step whose items are put in, taken out and changed one by one. */
export interface ItemList<I extends Item = Item> {
  readonly shape: z.ZodType<I>;
  /** What the edit of an item did, told with the fields that arrive at the step. */
  sentence(change: ItemChange, schema: Schema, parameters: readonly Parameter[]): string;
}

export type ItemChange =
  { readonly did: 'added' | 'removed'; readonly item: Item } | { readonly did: 'changed'; readonly from: Item; readonly to: Item };

/** What a field is made of. */
export interface FieldOrigin {
  /** The column of a source it is read from. */
  readonly column?: { readonly source: string; readonly table: string; readonly column: string };
  /** Fields that arrive at the step and go into it. */
  readonly fields: readonly FieldId[];
  /** How it is made, in words. */
  readonly how: string;
}

export interface ParameterMention {
  readonly parameter: string;
  /** What stands before its values in the dataset's sentence. */
  readonly words: string;
  /** The type of what it is compared with, where it is. */
  readonly meets?: FieldType;
  /** What it comes to when it is left blank, where that is other than for a condition. */
  readonly blank?: string;
  /** It is named where what it stands in is told as a whole, and its values behind that. */
  readonly apart?: true;
}

/** What tells how many rows a step gives. */
export type Counted<S extends StepBase, C> =
  /** Rows of its first input, of which it drops those that do not pass; counted together with the steps around it. */
  | {
      readonly by: 'rows of its first input';
      passing(checked: Checked<S, C>, input: Relation, binding: Binding): Passing;
    }
  /** As many as arrive first, whatever else comes to them. */
  | { readonly by: 'as many rows as its first input' }
  /** All rows of all inputs. */
  | { readonly by: 'rows of all inputs' }
  /** Only a statement of its own. Of rows that arrive in a slot, `failures` tells in which something could not be computed. */
  | { readonly by: 'a statement of its own'; failures?(checked: Checked<S, C>, binding: Binding): readonly FailureAt[] };

/** Where computing something fails in rows that arrive. */
export interface FailureAt {
  readonly slot: number;
  readonly field: FieldId;
  readonly when: Expression;
}

/** The rows of an input as a step looks at them. */
export interface Passing {
  /** Every row that arrives, with what the step computes for each. */
  readonly relation: Relation;
  /** Those it lets pass; left out where it lets all pass. */
  readonly keeps?: Expression;
  /** Where computing something failed: in the step as a whole, and in each of its fields that can fail. */
  readonly failures: readonly { readonly field?: FieldId; readonly when: Expression }[];
  /** It computes values over other rows, so rows dropped before it must be gone. */
  readonly looksAtOtherRows: boolean;
}

/** Followed rows on their way through a step. */
export interface Through<S extends StepBase, C> {
  readonly checked: Checked<S, C>;
  readonly parameters: readonly Parameter[];
  /** One a slot. */
  readonly inputs: readonly Relation[];
  /** What the step gives. */
  readonly relation: Relation;
  /** The slot they arrive in. */
  readonly slot: number;
  /** Which of the rows that arrive there they are. */
  readonly known: Expression;
  /** How many arrive; at most `ROWS_FOLLOWED` of them are looked at. */
  readonly arrived: number;
  readonly binding: Binding;
}

/** So many of the rows that are followed are looked at; the others are only counted. */
export const ROWS_FOLLOWED = 20;

export interface FollowedThrough {
  readonly present: number;
  /** Rows the step dropped, with why. */
  readonly dropped: readonly DroppedRow[];
  /** What the step computed for the rows that are present. */
  readonly values: readonly (readonly NamedValue[])[];
  /** Rows that met none and are kept. */
  readonly kept?: readonly DroppedRow[];
  /** Which of the step's rows they are now; left out where they cannot be told any more. */
  readonly known?: Expression;
}

export interface NamedValue {
  readonly name: string;
  readonly value: string | null;
}

export interface DroppedRow {
  /** Why, where no clause dropped it. */
  readonly because?: 'no partner' | 'has a partner' | 'no value' | 'alike to an earlier one' | 'not among the first';
  /** The clauses that dropped it, by number and in words. */
  readonly clauses: readonly { readonly id: string; readonly number: string; readonly words: string }[];
  /** The row's values that decided. */
  readonly values: readonly NamedValue[];
}
