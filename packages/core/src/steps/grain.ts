import type { FieldId, Schema } from '../fields';
import { fieldById } from '../fields';

/** What one row stands for, and by what it is told from the others. */
export interface Grain {
  /** What one row is called. Empty where nothing arrives. */
  readonly row: string;
  /** What several rows are called. */
  readonly rows: string;
  /** Sets of fields, each of which alone tells any two rows apart; the shortest of equal worth first. */
  readonly keys: readonly (readonly FieldId[])[];
}

export const NO_GRAIN: Grain = { row: '', rows: '', keys: [] };

/** The fields a row is best known by: a set that tells rows apart and has arrived whole. */
export function knownBy({ keys }: Grain, schema: Schema): readonly FieldId[] {
  return keys.find((key) => key.every((id) => fieldById(schema, id) !== undefined)) ?? [];
}

/** Whether rows that agree in all of `fields` are one and the same row. */
export function tellsApart({ keys }: Grain, fields: ReadonlySet<FieldId>): boolean {
  return keys.some((key) => key.every((id) => fields.has(id)));
}
