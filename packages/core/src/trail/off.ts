import type { Field, FieldId } from '../fields';
import type { Relation } from '../sql';
import { columnsOf } from '../sql';
import type { CheckedStep, Rows } from '../steps';
import { converted, firstArriving, kindOf, valueIn } from '../steps';

/**
 * A step that is off gives the rows of its first input. Its own fields stay, so that what stands behind it keeps
 * its footing: a field that a first input's field leaves as is that field, and one the step would have made is null.
 */
export function relationWhenOff(checked: CheckedStep, input: Relation): Relation {
  const came = cameFrom(checked);
  const arriving = new Set(columnsOf(input).map((each) => each.id));
  const made = checked.schema.fields.filter(({ id }) => came.get(id)?.id !== id || !arriving.has(id));
  if (made.length === 0) return input;
  const fields = made.map(({ id, name, type }) => ({ id, name, type, expression: converted(came.get(id), type) }));
  return { node: 'calculate', name: checked.title, input, fields };
}

/** The same rows in core. */
export function rowsWhenOff(checked: CheckedStep, rows: Rows): Rows {
  const came = cameFrom(checked);
  return rows.map((row) => new Map(checked.schema.fields.map(({ id, type }) => [id, valueIn(row, came.get(id), type)])));
}

/** For each of the step's fields the field of its first input that leaves it under that id. */
function cameFrom(checked: CheckedStep): ReadonlyMap<FieldId, Field> {
  const { step } = checked;
  const kind = kindOf(step);
  return new Map(
    firstArriving(checked).schema.fields.flatMap((field): readonly (readonly [FieldId, Field])[] => {
      const now = kind.carries(step, 0, field.id);
      return now === undefined ? [] : [[now, field]];
    }),
  );
}
