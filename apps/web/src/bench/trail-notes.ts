import type { CheckedStep } from '@cendra/core';
import { breaksGrain, checkedOf, withArticle } from '@cendra/core';
import { grouped } from '../ui/format';

type RowsOf = (step: string) => string | undefined;

/** How many rows each input of a union gives: “3 412 deliveries, 800 advances”. */
export function unionNote(checked: CheckedStep, rowsOf: RowsOf): string | undefined {
  const union = checkedOf('union', checked);
  const told = union?.step.inputs.map((input, slot) => {
    const rows = input === null ? undefined : rowsOf(input);
    return rows === undefined ? undefined : `${grouped(rows)} ${union.arriving[slot]?.grain.rows || `of input ${slot + 1}`}`;
  });
  return told?.every((each) => each !== undefined) ? told.join(' + ') : undefined;
}

/** Where one row stands in several, what that does to sums. */
export function unpivotNote(checked: CheckedStep): string | undefined {
  const unpivot = checkedOf('unpivot', checked);
  const times = unpivot?.step.lines.length ?? 0;
  if (!unpivot || times < 2) return undefined;
  const row = unpivot.arriving[0]?.grain.row || 'row';
  return `each ${row} stands in ${times} rows; sums over all rows count it ${timesWord(times)}`;
}

/** Where a row may meet several, why that is meant, or what a row is from here on. */
export function joinNote(checked: CheckedStep): string | undefined {
  const join = checkedOf('join', checked);
  if (!join || !breaksGrain(join.step, join.checked.many)) return undefined;
  if (join.step.accepted !== '') return `may multiply rows, noted: ${join.step.accepted}`;
  return `one row is ${withArticle(join.grain.row)} from here on`;
}

export const timesWord = (times: number): string => (times === 2 ? 'twice' : `${times} times`);
