import { z } from 'zod';
import type { Reference } from '../expressions';
import type { Schema } from '../fields';
import type { Parameter, Binding } from '../parameters';
import type { Problem } from '../problem';
import type { Relation } from '../sql';
import type { Calendar, Value } from '../values';

/** What every step has, whatever its kind. */
export interface StepBase {
  readonly id: string;
  /** Named by hand, or empty: then the step is named by its sentence. */
  readonly name: string;
  /** Disabled: rows pass through unchanged. */
  readonly off: boolean;
  /** Ids of the steps whose rows it works on. */
  readonly inputs: readonly string[];
}

export const stepBase = {
  id: z.string().min(1).max(64),
  name: z.string().max(200),
  off: z.boolean(),
  inputs: z.array(z.string().min(1).max(64)).max(50),
};

/** A column as a source's catalogue describes it. */
export interface CatalogueColumn {
  readonly name: string;
  readonly sourceType: string;
  readonly looseText: boolean;
}

/** What is known of sources without asking them: the columns of a table, or 'gone'; undefined when not known. */
export type Catalogue = (source: string, schema: string, table: string) => readonly CatalogueColumn[] | 'gone' | undefined;

export interface StepContext {
  readonly parameters: readonly Parameter[];
  readonly calendar: Calendar;
  readonly catalogue: Catalogue;
}

export interface StepCheck {
  readonly schema: Schema;
  readonly problems: readonly Problem[];
}

/** Rows in core, for the naive evaluator: one value per field id. */
export interface Rows {
  readonly schema: Schema;
  readonly rows: readonly ReadonlyMap<string, Value>[];
}

/** Where the naive evaluator gets a table's rows from: one value per column name. */
export type TableRows = (source: string, schema: string, table: string) => readonly ReadonlyMap<string, Value>[];

/**
 * One kind of step. A new kind is one file with such an object and its line in the registry; everything
 * else (checking, planning, running, history, evaluation) goes through these functions.
 */
export interface StepKind<S extends StepBase> {
  readonly kind: string;
  /** How many inputs a step of this kind has. */
  readonly inputs: number;
  /** The shape of its part of the definition. */
  readonly shape: z.ZodType<S>;
  /** Its output fields, and what is wrong with it. Never runs anything, and gives fields also for a wrong step. */
  check(step: S, inputs: readonly Schema[], context: StepContext): StepCheck;
  /** Its name in words, used until it is named by hand. */
  sentence(step: S, inputs: readonly Schema[], context: StepContext): string;
  /** What it stands for. Called only for a step without errors, with blanks and values at hand. */
  relation(
    step: S,
    inputs: readonly Relation[],
    schemas: readonly Schema[],
    context: StepContext & { readonly binding: Binding },
  ): Relation;
  /** Its rows computed in core, the reference the engines are compared with. */
  rows(step: S, inputs: readonly Rows[], context: StepContext & { readonly binding: Binding; readonly tables: TableRows }): Rows;
  /** The fields and parameters it mentions. */
  uses(step: S, parameters: readonly Parameter[]): readonly Pick<Reference, 'kind' | 'id'>[];
  /** The step with every written mention of a field or parameter in its new name. */
  renamed(step: S, kind: Reference['kind'], id: string, name: string): S;
  /** The step without the values typed into it, for those who may not see them. */
  withoutValues(step: S): S;
}
