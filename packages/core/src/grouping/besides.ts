import type { Expression } from '../expressions';
import { arithmetic, sumType, wholeLiteral } from '../expressions';
import type { FieldType } from '../fields';
import { isNumber, whole } from '../fields';
import type { Column } from '../sql';
import type { SheetField } from '../sheet';
import type { Totalled } from './columns';
import { totalType } from './columns';
import type { Beside, Figure, Total } from './layout';
import { BESIDES, BESIDES_ACROSS } from './layout';
import { averagedBeside, averageType } from './marks';

/** What can stand beside a total, of which types it is, and in which columns of a line it stands. */

/** What is told of the groups beside a total: what stands beside it, and what its marks compare with. */
export type BesideAsked = Beside | 'average of the groups';

export const besideColumn = (index: number, kind: BesideAsked): string =>
  `beside_${index}_${kind === 'average of the groups' ? 'average' : BESIDES.indexOf(kind)}`;

/** All of that, total by total. */
export const besidesAsked = ({
  totals,
  marks,
}: Totalled): readonly { readonly total: Total; readonly index: number; readonly kind: BesideAsked }[] => {
  const averaged = averagedBeside(marks, totals);
  return totals.flatMap((total, index) => [
    ...(total.beside ?? []).map((kind) => ({ total, index, kind })),
    ...(averaged.includes(index) ? [{ total, index, kind: 'average of the groups' as const }] : []),
  ]);
};

/** Whether it is told by the column before. */
export const isAcross = (kind: BesideAsked): boolean => BESIDES_ACROSS.some((each) => each === kind);

/** What can stand beside a figure: shares and running totals only beside what adds up. */
export function besidesOf({ aggregate }: Figure, field: SheetField | undefined, across: boolean): readonly Beside[] {
  const counted = aggregate === 'count' || aggregate === 'distinct count';
  if (!field || (!counted && !isNumber(field.type))) return [];
  const adds = aggregate === 'sum' || aggregate === 'count';
  return BESIDES.filter((each) => (adds || (each !== 'share' && each !== 'running total')) && (across || !isAcross(each)));
}

export function besideType(kind: BesideAsked, type: FieldType): FieldType {
  switch (kind) {
    case 'average of the groups':
      return averageType(type);
    case 'share':
    case 'change':
    case 'change across':
      return percent(nothing(type), nothing(type)).type;
    case 'rank':
      return whole;
    case 'running total':
      return sumType(type);
    case 'difference':
    case 'difference across':
      return arithmetic('-', nothing(type), nothing(type)).type;
  }
}

/** Of hundred, rounded once. */
export const percent = (of: Expression, whole: Expression): Expression => arithmetic('/', arithmetic('*', of, wholeLiteral(100)), whole);

export const nothing = (type: FieldType): Expression => ({ op: 'literal', type, value: null });

/** The columns of groups that say what stands beside their totals. */
export const besideColumns = (layout: Totalled, fields: readonly SheetField[]): readonly Column[] =>
  besidesAsked(layout).map(({ total, index, kind }) => {
    const id = besideColumn(index, kind);
    return { id, name: id, type: besideType(kind, totalType(fields, total)) };
  });
