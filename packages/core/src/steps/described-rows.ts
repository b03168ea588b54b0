import type { Schema } from '../fields';
import type { Relation } from '../sql';
import type { TextPart } from '../statements';
import type { SqlField } from './sql-fields';

interface Described {
  readonly id: string;
  readonly source: string;
  readonly fields: readonly SqlField[];
}

/** The rows of a text that runs in its source as it stands, in the columns its source described. */
export function describedRows(
  { id: step, source, fields }: Described,
  schema: Schema,
  title: string,
  parts: readonly TextPart[],
): Relation & { node: 'text' } {
  const types = new Map(schema.fields.map((each) => [each.id, each.type]));
  return {
    node: 'text',
    name: title,
    site: { kind: 'source', source },
    step,
    parts,
    given: fields.map(({ name, column, sourceType }) => ({ name, column, sourceType })),
    columns: fields.map(({ id, name, sourceType, type, looseText }) => ({
      id,
      name,
      type: types.get(id) ?? type,
      column: name,
      sourceType,
      looseText,
    })),
  };
}
