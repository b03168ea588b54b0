import { z } from 'zod';
import { idShape } from '../ids';
import type { Budget } from '../expressions';
import type { FieldId, Schema } from '../fields';
import type { Parameter } from '../parameters';
import type { Problem } from '../problem';
import type { SheetEntry } from '../sheet';
import type { Calendar, Value } from '../values';
import type { Catalogue } from './catalogue';
import type { Grain } from './grain';
import { NO_GRAIN } from './grain';

/** What every step has, whatever its kind. */
export interface StepBase {
  readonly id: string;
  /** Named by hand, or empty: then the step is named by its sentence. */
  readonly name: string;
  /** Switched off: its rows are those of its first input, its fields stay, and those it made are null. */
  readonly off: boolean;
  /** By slot: the step whose rows come in there, or null while the slot is empty. The last one is never null. */
  readonly inputs: readonly (string | null)[];
}

export const stepBase = {
  id: idShape,
  name: z.string().max(200),
  off: z.boolean(),
  inputs: z.array(idShape.nullable()).max(50),
};

/** How many inputs a kind of step takes, and what each of them is to it. */
export interface InputSlots {
  readonly least: number;
  readonly most: number;
  /** What comes into a slot, in words that follow “the”: “rows”, “partners”. */
  role(slot: number): string;
}

export const NO_INPUT: InputSlots = { least: 0, most: 0, role: () => '' };
export const ONE_INPUT: InputSlots = { least: 1, most: 1, role: () => 'rows' };

/** What comes into a slot. */
export interface Arriving {
  readonly schema: Schema;
  readonly grain: Grain;
  /** The session its rows were made in, in which a script may go on; left out where there is none. */
  readonly session?: StepSession;
}

/** A session of a source in which so many statements have run. */
export interface StepSession {
  readonly source: string;
  readonly statements: number;
}

export const NOTHING_ARRIVES: Arriving = { schema: { fields: [] }, grain: NO_GRAIN };

export interface StepContext {
  readonly parameters: readonly Parameter[];
  readonly calendar: Calendar;
  readonly catalogue: Catalogue;
}

export interface CheckContext extends StepContext {
  /** What the expressions of all steps may still come to; checks count it down. */
  readonly budget: Budget;
  /** What the field sheet says of fields, wherever in the trail they are. */
  readonly sheet?: readonly SheetEntry[];
  /** Whether a step asks for a field, wherever in the trail it is, whether it is taken or not. */
  used?(field: FieldId): boolean;
}

/** A step understood: what it gives, what is wrong with it, and its parts as typed ones, so that nobody parses them again. */
export interface StepCheck<C> extends Arriving {
  readonly problems: readonly Problem[];
  readonly checked: C;
}

/** A step of a checked trail. */
export interface Checked<S extends StepBase, C> extends StepCheck<C> {
  readonly step: S;
  /** Its name by hand, or its sentence. */
  readonly title: string;
  /** By slot, as many as the kind needs at least; nothing arrives in an empty one. */
  readonly arriving: readonly Arriving[];
  /** It or a step it stands on has an error, so it cannot run. */
  readonly blocked: boolean;
}

/** What arrives in a step's first slot. */
export const firstArriving = ({ arriving }: { readonly arriving: readonly Arriving[] }): Arriving => arriving[0] ?? NOTHING_ARRIVES;

/** Rows in core, for the naive evaluator: one value per field id. */
export type Rows = readonly ReadonlyMap<string, Value>[];

/** Where the naive evaluator gets a table's rows from: one value per column name. */
export type TableRows = (source: string, schema: string, table: string) => Rows;
