import type { FieldType } from '../../fields';

/** PostgreSQL's names of the field types. */
export const TYPE_NAMES: Record<FieldType['kind'], string> = {
  text: 'text',
  whole: 'bigint',
  decimal: 'numeric',
  float: 'double precision',
  yesno: 'boolean',
  date: 'date',
  time: 'time',
  datetime: 'timestamp',
  instant: 'timestamptz',
  json: 'text',
};
