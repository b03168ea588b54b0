import type { Expression } from '../expressions';
import { compare, isNull } from '../expressions';
import { refuse } from '../problem';
import { readValue } from '../values';

/** Equal to a value in wire form; null is equal to null. Throws a ProblemError where the wire form is none of the expression's type. */
export function equalTo(of: Expression, wire: string | null): Expression {
  if (wire === null) return isNull(of);
  const read = readValue(of.type, wire);
  if (!read.ok) refuse('inspection-unsuited', 'A value that was asked for is not of its type.', {}, read.expected);
  return compare('=', of, { op: 'literal', type: of.type, value: read.value });
}
