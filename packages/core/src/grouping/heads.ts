import type { Expression } from '../expressions';
import { all, compare, when, wholeLiteral } from '../expressions';
import { whole, yesno } from '../fields';
import type { SheetField } from '../sheet';
import type { CalculatedColumn, MeasureColumn } from '../sql';
import type { Head } from './columns';
import { column, field, headColumn, headsOf, severalColumn, typeOf } from './columns';
import type { Level } from './layout';

/**
 * Fields that stand at the head of a group: told once, as they are the same in all its rows. Where they are not, the head
 * says so and shows none of them.
 */

/** Levels that have none, where nobody reads them. */
export const withoutHeads = (levels: readonly Level[]): readonly Level[] => levels.map(({ heads: _heads, ...level }) => level);

export const headPart = ({ level, index }: Head, part: 'least' | 'greatest' | 'count') => `head_${part}_${level}_${index}`;

/** What these columns are made of, counted in the pass that makes the groups, whose rows are counted as `rows`. */
export const headMeasures = (levels: readonly Level[], fields: readonly SheetField[]): readonly MeasureColumn[] =>
  headsOf(levels).flatMap((head): readonly MeasureColumn[] => {
    const of = field(head.field, typeOf(fields, head.field));
    return [
      ...(['least', 'greatest'] as const).map((aggregate) => ({ ...column(headPart(head, aggregate), of.type), aggregate, of })),
      { ...column(headPart(head, 'count'), whole), aggregate: 'count', of },
    ];
  });

export const headFields = (levels: readonly Level[], fields: readonly SheetField[], rows: string): readonly CalculatedColumn[] =>
  headsOf(levels).flatMap((head) => {
    const type = typeOf(fields, head.field);
    const least = field(headPart(head, 'least'), type);
    const counted = field(headPart(head, 'count'), whole);
    const none = compare('=', counted, wholeLiteral(0));
    // A value in some of its rows and none in others are several.
    const same = all(compare('=', counted, field(rows, whole)), compare('=', least, field(headPart(head, 'greatest'), type)));
    const yes: Expression = { op: 'literal', type: yesno, value: true };
    const no: Expression = { op: 'literal', type: yesno, value: false };
    return [
      { ...column(headColumn(head.level, head.index), type), expression: when(same, least, { op: 'literal', type, value: null }) },
      { ...column(severalColumn(head.level, head.index), yesno), expression: when(none, no, when(same, no, yes)) },
    ];
  });
