import type { FieldType } from './type';
import { isDay, isNumber } from './type';

export type FieldId = string;

export type Role = 'key' | 'measure' | 'attribute' | 'date' | 'code';

/** One field of a step's output. `id` is its identity through the whole trail; `name` may change. */
export interface Field {
  readonly id: FieldId;
  readonly name: string;
  readonly type: FieldType;
  readonly role: Role;
  /** The step that introduced it and the column it came from, for lineage and messages. */
  readonly origin: { readonly step: string; readonly column: string };
  /** It can be used by later steps (criteria, sorting) and is not handed over. */
  readonly forUseOnly: boolean;
  /** Over what it adds up, where its making says so. */
  readonly addsUp?: 'over nothing' | 'within one grouping';
  /** The field that says which grouping a row belongs to, where it adds up within one. */
  readonly within?: FieldId;
  /** Where a join may have made several rows of one: of what one of them stands for each. A sum would count it so often. */
  readonly oncePer?: string;
  /** It says which grouping a row belongs to, where one record stands in several. */
  readonly saysGrouping?: true;
}

export interface Schema {
  readonly fields: readonly Field[];
}

export function fieldById(schema: Schema, id: FieldId): Field | undefined {
  return schema.fields.find((field) => field.id === id);
}

/**
 * The field an SQL identifier means: the exact name first; an unquoted identifier also matches
 * regardless of case when only one field does.
 */
export function fieldByName(schema: Schema, name: string, quoted: boolean): Field | undefined {
  const exact = schema.fields.find((field) => field.name === name);
  if (exact || quoted) return exact;
  const loose = schema.fields.filter((field) => field.name.toLowerCase() === name.toLowerCase());
  return loose.length === 1 ? loose[0] : undefined;
}

/** The name, with a number behind it where it is taken. */
export function freeName(name: string, taken: ReadonlySet<string>): string {
  for (let number = 2, candidate = name; ; candidate = `${name}_${number++}`) if (!taken.has(candidate)) return candidate;
}

/** What the catalogue knows about a column that tells its role. */
export interface ColumnEvidence {
  readonly name: string;
  readonly type: FieldType;
  readonly primaryKey: boolean;
  readonly foreignKey: boolean;
  readonly unique: boolean;
}

const CODE_NAME = /(^|_)(code|no|nr|number|num|id|ref|zip|postcode|phone)$/i;
const YEAR_NAME = /(^|_)(year|season|month|week|quarter|line)$/i;

/**
 * The role a column plays, from its constraints first and its name second. Numbers that are names
 * for something (codes, years, line numbers) are never measures, so nothing sums them by itself.
 */
export function recogniseRole(column: ColumnEvidence): Role {
  if (column.primaryKey || column.foreignKey) return 'key';
  if (isDay(column.type)) return 'date';
  if (column.unique || CODE_NAME.test(column.name) || YEAR_NAME.test(column.name)) return 'code';
  return isNumber(column.type) ? 'measure' : 'attribute';
}
