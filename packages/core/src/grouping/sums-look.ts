import { arithmetic, cast, compare } from '../expressions';
import { MAX_DIGITS, OPEN_SCALE, whole } from '../fields';
import { warning } from '../problem';
import type { SheetField } from '../sheet';
import type { Column, Relation } from '../sql';
import { calculatedColumn } from '../sql';
import { totalled } from './columns';
import { addsOpen, landedRows } from './groups';
import type { Layout } from './layout';
import type { Look } from './look';
import { column, COUNT, field, FIRST, nothing, SECOND } from './look';

/** Numbers of any digits that no sum holds: a group they stand in has none, which is to be known before it is taken for nothing. */
export const notSummed = (layout: Layout, fields: readonly SheetField[], stored: readonly Column[]): readonly Look[] =>
  [...new Set((layout.totals ?? []).filter((each) => addsOpen(fields, each)).map((each) => each.field))].flatMap((id) => {
    const told = fields.find((each) => each.id === id);
    return told ? [notSummedOf(told, fields, stored)] : [];
  });

function notSummedOf(told: SheetField, fields: readonly SheetField[], stored: readonly Column[]): Look {
  const counted = (id: string, of: ReturnType<typeof field>) => ({ ...column(id, whole), aggregate: 'count' as const, of });
  const both: Relation = {
    node: 'group',
    input: landedRows(stored),
    keys: [],
    counts: [],
    measures: [counted('present', field(told.id, told.type)), counted('held', totalled(fields, { field: told.id, aggregate: 'sum' }))],
  };
  const [present, held] = [field('present', whole), field('held', whole)];
  return {
    rows: {
      node: 'calculate',
      input: { node: 'filter', input: both, condition: compare('>', present, held) },
      kept: [],
      fields: [
        calculatedColumn(COUNT, cast(arithmetic('-', present, held), whole)),
        calculatedColumn(FIRST, nothing),
        calculatedColumn(SECOND, nothing),
      ],
    },
    says: ([found]) => {
      const several = found?.count !== '1';
      return warning(
        'sum-not-held',
        `${several ? `${found?.count ?? ''} values` : 'One value'} of ${told.name} ${several ? 'have' : 'has'} more digits than a sum holds, so there is no sum and no average where ${several ? 'they belong' : 'it belongs'}.`,
        { field: told.id },
        `numbers of at most ${MAX_DIGITS - OPEN_SCALE} digits before the decimal sign`,
      );
    },
  };
}
