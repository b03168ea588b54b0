import type { Expression } from '../expressions';
import type { FieldType } from '../fields';
import { text } from '../fields';
import type { Problem } from '../problem';
import type { Column, Relation } from '../sql';

/** Something of the rows that is looked at because a report made of them would be off. */
export interface Look {
  /** At most a few rows: a number and two texts. */
  readonly rows: Relation;
  readonly says: (rows: readonly LookRow[]) => Problem;
}

export interface LookRow {
  readonly count: string;
  readonly first: string | null;
  readonly second: string | null;
}

export const COUNT = 'look_count';
export const FIRST = 'look_first';
export const SECOND = 'look_second';
export const WHICH = 'look';
export const column = (id: string, type: FieldType): Column => ({ id, name: id, type });
export const field = (id: string, type: FieldType): Expression => ({ op: 'field', id, type });
export const nothing: Expression = { op: 'literal', type: text, value: null };
