import type { Expression } from '../expressions';
import { commonType, inType } from '../expressions';
import type { Field, FieldType } from '../fields';
import { isNumber, sameType } from '../fields';
import type { Value } from '../values';
import { castValue } from '../values';

/** Numbers have a wider one in common; days of different kinds do not, for they say different things. */
export const commonFor = (a: FieldType, b: FieldType): FieldType | undefined => {
  if (sameType(a, b)) return a;
  return isNumber(a) && isNumber(b) ? wider(a, b) : a.kind === b.kind ? commonType(a, b) : undefined;
};

/** Digits before and behind the point of both. */
function wider(a: FieldType, b: FieldType): FieldType | undefined {
  if (a.kind !== 'decimal' && b.kind !== 'decimal') return commonType(a, b);
  if (a.kind === 'float' || b.kind === 'float') return { kind: 'float' };
  const digits = (type: FieldType) =>
    type.kind === 'decimal' ? { whole: type.precision - type.scale, scale: type.scale } : { whole: 19, scale: 0 };
  const [x, y] = [digits(a), digits(b)];
  const [whole, scale] = [Math.max(x.whole, y.whole), Math.max(x.scale, y.scale)];
  return whole + scale <= 38 ? { kind: 'decimal', precision: whole + scale, scale } : undefined;
}

/** A field in the type it has in common with others, null where there is none. */
export function converted(field: Field | undefined, type: FieldType): Expression {
  if (!field) return { op: 'literal', type, value: null };
  return inType({ op: 'field', type: field.type, id: field.id }, type);
}

/** The same of a row in core. */
export function valueIn(row: ReadonlyMap<string, Value>, field: Field | undefined, type: FieldType): Value {
  const value = field ? (row.get(field.id) ?? null) : null;
  return value === null || !field || sameType(field.type, type) ? value : (castValue(value, field.type, type) ?? null);
}
