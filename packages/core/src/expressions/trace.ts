import type { FieldType } from '../fields';
import type { Span } from '../problem';
import type { Value } from '../values';
import type { Part } from './parts';
import type { Row } from './evaluate';
import { evaluate } from './evaluate';
import type { Window } from './expression';
import { windowsOf } from './expression';
import { failureOf } from './transform';

/** How a part of an expression came about in one row, with the parts inside it. Positions are UTF-16 offsets. */
export interface Traced extends Span {
  readonly type: FieldType;
  readonly value: Value;
  /** Its operands had values and it has none, because it could not be computed. */
  readonly failed: boolean;
  /** False where its value was not needed: a branch not taken, a stand-in not used. */
  readonly reached: boolean;
  /** The value over other rows it is, counted through the whole expression. */
  readonly window?: number;
  readonly parts: readonly Traced[];
}

/** The value of an expression in one row, node by node as the text is nested. */
export function trace(root: Part, row: Row): Traced {
  return traced(root, row, true, windowsOf(root.expression));
}

function traced(part: Part, row: Row, reached: boolean, windows: readonly Window[]): Traced {
  const { from, to, expression } = part;
  const needed = neededParts(part, row);
  const parts = part.parts.map((each, index) => traced(each, row, reached && needed[index] !== false, windows));
  const value = evaluate(expression, row);
  const inside = parts.some((each) => each.reached && failedWithin(each));
  const failure = value === null && reached && !inside ? failureOf(expression) : undefined;
  const failed = failure !== undefined && evaluate(failure, row) === true;
  const window = windows.findIndex((each) => each === expression || windowsOf(expression).includes(each));
  const own = part.node === 'window' && window >= 0;
  return { from, to, type: expression.type, value, failed, reached, ...(own ? { window } : {}), parts };
}

const failedWithin = (traced: Traced): boolean => traced.failed || traced.parts.some((each) => each.reached && failedWithin(each));

/** Which parts a value was made from; what is not said was needed. */
function neededParts(part: Part, row: Row): readonly boolean[] {
  const { expression, parts } = part;
  if (part.node === 'case' && expression.op === 'case') {
    const before = parts.length - expression.branches.length * 2 - (part.hasElse ? 1 : 0);
    const taken = expression.branches.findIndex(({ when }) => evaluate(when, row) === true);
    return parts.map((_, index) => {
      const at = index - before;
      if (at < 0) return true;
      const branch = Math.floor(at / 2);
      if (branch >= expression.branches.length) return taken < 0;
      return at % 2 === 0 ? taken < 0 || branch <= taken : branch === taken;
    });
  }
  if (expression.op === 'coalesce' && part.node === 'call') {
    const first = expression.items.findIndex((each) => evaluate(each, row) !== null);
    return parts.map((_, index) => first < 0 || index <= first);
  }
  return [];
}
