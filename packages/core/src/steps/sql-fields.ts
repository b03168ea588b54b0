import { z } from 'zod';
import type { FieldType, Role } from '../fields';
import { idShape } from '../ids';
import { recogniseRole, typeShape } from '../fields';

/** A column of a statement's rows, as its source describes it without running it. */
export interface DescribedField {
  /** As the source calls it; a column the text gives no name has one of the source's making. */
  readonly column: string;
  readonly named: boolean;
  readonly sourceType: string;
  readonly type: FieldType;
  readonly looseText: boolean;
}

/** A field of a SQL step. Its id is minted when its column first comes up and stays with the column's name. */
export interface SqlField {
  readonly id: string;
  /** Of its own among the step's fields. */
  readonly name: string;
  readonly column: string;
  readonly sourceType: string;
  readonly type: FieldType;
  readonly role: Role;
  readonly looseText: boolean;
}

export const describedShape = {
  name: z.string().min(1).max(300),
  column: z.string().max(256),
  sourceType: z.string().max(300),
  type: typeShape,
  looseText: z.boolean(),
};

export const sqlFieldShape: z.ZodType<SqlField> = z.strictObject({
  id: idShape,
  ...describedShape,
  role: z.enum(['key', 'measure', 'attribute', 'date', 'code']),
});

/** What a text's columns are now, held against the fields there were. */
export interface FieldsNow {
  readonly fields: readonly SqlField[];
  /** Fields whose column is there no more. */
  readonly gone: readonly SqlField[];
  /** Fields that were not there before. */
  readonly fresh: readonly SqlField[];
}

/**
 * The fields for a statement's columns. A column keeps the id of the field that had its name; where two columns share one
 * the second is told apart by a number, and one without a name is called by its place.
 */
export function fieldsNow(before: readonly SqlField[], columns: readonly DescribedField[], mint: () => string): FieldsNow {
  const used = new Set<string>();
  const fields = columns.map((column, index): SqlField => {
    const wanted = column.named ? column.column : `column ${index + 1}`;
    let name = wanted;
    for (let count = 2; used.has(name); count++) name = `${wanted} ${count}`;
    used.add(name);
    const known = before.find((each) => each.name === name);
    const { column: own, sourceType, type, looseText } = column;
    const role = known?.role ?? recogniseRole({ name, type, primaryKey: false, foreignKey: false, unique: false });
    return { id: known?.id ?? mint(), name, column: own, sourceType, type, role, looseText };
  });
  const ids = new Set(fields.map((each) => each.id));
  const old = new Set(before.map((each) => each.id));
  return { fields, gone: before.filter((each) => !ids.has(each.id)), fresh: fields.filter((each) => !old.has(each.id)) };
}

/** The fields with one of them, where there is one, under the id of another that is gone: the column was only called something else. */
export function takingOver(fields: readonly SqlField[], fresh: string | undefined, gone: SqlField): readonly SqlField[] {
  return fields.map((each) => (each.id === fresh ? { ...each, id: gone.id, role: gone.role } : each));
}
