import { all, cast, compare, concat, not, textLiteral, when, yes } from '../expressions';
import { text, whole, yesno } from '../fields';
import { warning } from '../problem';
import type { SheetField } from '../sheet';
import type { Column, Relation } from '../sql';
import { calculatedColumn } from '../sql';
import type { Head } from './columns';
import { field, headsOf, keyColumn, keysOfRow, restColumn, severalColumn, typeOf } from './columns';
import { readRows } from './first-groups';
import { headFields, headMeasures, headPart, withoutHeads } from './heads';
import type { Layout, Level } from './layout';
import type { Look, LookRow } from './look';
import { COUNT, FIRST, SECOND } from './look';

/** Groups in which a field that stands at their head is not the same. */
export function headsOff(layout: Layout, fields: readonly SheetField[], stored: readonly Column[]): readonly Look[] {
  return headsOf(layout.levels).map((head): Look => {
    const levels = withoutHeads(layout.levels.slice(0, head.level));
    const [own] = levels.slice(-1);
    const rest = own?.first === undefined ? [] : [not(field(restColumn(head.level), yesno))];
    const keys = levels.flatMap((each, at) => keysOfRow(each, at + 1, fields));
    const [group] = headFields(layout.levels, fields, ROWS).flatMap((each) =>
      each.id === severalColumn(head.level, head.index) ? [each] : [],
    );
    const each: Relation = {
      node: 'group',
      input: readRows({ levels }, fields, stored),
      keys,
      counts: [{ id: ROWS }],
      measures: headMeasures(layout.levels, fields).filter(({ id }) => id.endsWith(`_${head.level}_${head.index}`)),
    };
    const several: Relation = { node: 'filter', input: each, condition: all(group?.expression ?? yes, ...rest) };
    const key = field(keyColumn(head.level), typeOf(fields, own?.field ?? ''));
    const type = typeOf(fields, head.field);
    const value = (part: 'least' | 'greatest') => cast(field(headPart(head, part), type), text);
    const counted = calculatedColumn(COUNT, { op: 'window', type: whole, name: 'countRows', of: [], partition: [], order: [] });
    return {
      rows: {
        node: 'calculate',
        input: {
          node: 'limit',
          input: { node: 'calculate', input: several, fields: [counted] },
          count: 1,
          order: [{ of: key, descending: false, nullsFirst: false }],
        },
        kept: [COUNT],
        fields: [
          calculatedColumn(FIRST, cast(key, text)),
          calculatedColumn(
            SECOND,
            when(
              compare('=', field(headPart(head, 'least'), type), field(headPart(head, 'greatest'), type)),
              concat(textLiteral('“'), value('least'), textLiteral('” and no value')),
              concat(textLiteral('“'), value('least'), textLiteral('” and “'), value('greatest'), textLiteral('”')),
            ),
          ),
        ],
      },
      says: (rows) => differs(head, own, fields, rows),
    };
  });
}

const ROWS = 'rows_of_group';

function differs(head: Head, level: Level | undefined, fields: readonly SheetField[], [found]: readonly LookRow[]) {
  const name = (id: string | undefined) => fields.find((each) => each.id === id)?.name ?? 'a field';
  const groups = found?.count === '1' ? 'one group' : `${found?.count ?? ''} groups`;
  return warning(
    'group-head-several',
    `${name(head.field)} stands at the head of the groups of ${name(level?.field)} and is not the same in all rows of ${groups}: “${found?.first ?? 'without a value'}” has ${found?.second ?? ''}.`,
    { field: head.field },
    'a field that is the same in each group, or it in the rows',
  );
}
