import { cast, widen } from '../expressions';
import type { Expression } from '../expressions';
import type { Field, FieldId } from '../fields';
import { isNumber, sameType } from '../fields';
import type { Relation } from '../sql';
import { columnsOf } from '../sql';
import { castValue } from '../values';
import type { CheckedStep, Rows } from '../steps';
import { firstArriving, kindOf } from '../steps';

/**
 * A step that is off gives the rows of its first input. Its own fields stay, so that what stands behind it keeps
 * its footing: a field that a first input's field leaves as is that field, and one the step would have made is null.
 */
export function relationWhenOff(checked: CheckedStep, input: Relation): Relation {
  const came = cameFrom(checked);
  const arriving = new Set(columnsOf(input).map((each) => each.id));
  const made = checked.schema.fields.filter(({ id }) => came.get(id)?.id !== id || !arriving.has(id));
  if (made.length === 0) return input;
  const fields = made.map(({ id, name, type }) => ({ id, name, type, expression: standIn(came.get(id), type) }));
  return { node: 'calculate', name: checked.title, input, fields };
}

function standIn(came: Field | undefined, type: Field['type']): Expression {
  if (!came) return { op: 'literal', type, value: null };
  const of: Expression = { op: 'field', type: came.type, id: came.id };
  return isNumber(came.type) && isNumber(type) ? widen(of, type) : cast(of, type);
}

/** The same rows in core. */
export function rowsWhenOff(checked: CheckedStep, rows: Rows): Rows {
  const came = cameFrom(checked);
  return rows.map(
    (row) =>
      new Map(
        checked.schema.fields.map(({ id, type }) => {
          const from = came.get(id);
          const value = from ? (row.get(from.id) ?? null) : null;
          const same = from === undefined || value === null || sameType(from.type, type);
          return [id, same ? value : (castValue(value, from.type, type) ?? null)] as const;
        }),
      ),
  );
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
