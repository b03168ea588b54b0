import { call, cast, wholeLiteral } from '../expressions';
import type { FieldId } from '../fields';
import { text, whole } from '../fields';
import type { Column, Relation } from '../sql';
import { columnsOf, valueOf } from '../sql';

const BEGINNING = 'beginning of ';
const LENGTH = 'length of ';

export const isLong = ({ type }: Pick<Column, 'type'>): boolean => type.kind === 'text' || type.kind === 'json';

/** The column with the beginning of a text. */
export const beginningOf = ({ id, name }: Pick<Column, 'id' | 'name'>): Column => ({ id: `${BEGINNING}${id}`, name, type: text });
/** The field a column has the beginning of, or is itself. */
export const fieldOfBeginning = (id: FieldId): FieldId => (id.startsWith(BEGINNING) ? id.slice(BEGINNING.length) : id);

/** The column that says how many characters a text has. */
export const lengthOf = (id: FieldId): Column => ({ id: `${LENGTH}${id}`, name: `${LENGTH}${id}`, type: whole });
export const isLength = (id: FieldId): boolean => id.startsWith(LENGTH);

/**
 * The same rows with no more than `most` characters of each text, and beside it how many it has: cut where they lie, so
 * that a text of any length costs its beginning only. `columns` are those there are then, in the order of the given ones.
 */
export function shortened(
  input: Relation,
  given: readonly Column[],
  most: number,
): { readonly relation: Relation; readonly columns: readonly Column[] } {
  const long = given.filter(isLong);
  if (long.length === 0) return { relation: input, columns: given };
  const relation: Relation = {
    node: 'calculate',
    input,
    kept: columnsOf(input).flatMap((each) => (isLong(each) ? [] : [each.id])),
    fields: long.flatMap((column) => {
      const value = cast(valueOf(column), text);
      return [
        { ...beginningOf(column), expression: call('substring', text, value, wholeLiteral(1), wholeLiteral(most)) },
        { ...lengthOf(column.id), expression: call('charLength', whole, value) },
      ];
    }),
  };
  const columns = [...given.map((each) => (isLong(each) ? beginningOf(each) : each)), ...long.map(({ id }) => lengthOf(id))];
  return { relation, columns };
}
