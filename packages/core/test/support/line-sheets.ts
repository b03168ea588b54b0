import fc from 'fast-check';
import type { ExpressionText, LineAggregate, LineSheetStep, SheetAmount, SheetLine, Step } from '../../src';
import { isNumber, linkReferences } from '../../src';
import { arrivingFrom, rarely, written } from './graph-fields';

/** Generated line sheets: lines told of one or two steps, calculated of one another in any order, in several amounts. */
export interface MadeSheet {
  readonly kind: 'line sheet';
  readonly on: number;
  readonly with: number;
  readonly of: number;
  readonly aggregates: readonly LineAggregate[];
  readonly least: number;
  readonly turned: boolean;
  readonly zero: boolean;
  readonly texts: boolean;
  readonly off: boolean;
}

export const madeSheet: fc.Arbitrary<MadeSheet> = fc.record({
  kind: fc.constant('line sheet' as const),
  on: fc.nat(20),
  with: fc.nat(20),
  of: fc.nat(20),
  aggregates: fc.array(fc.constantFrom<LineAggregate>('rows', 'count', 'distinct count', 'sum', 'average', 'least', 'greatest', 'median'), {
    minLength: 3,
    maxLength: 3,
  }),
  least: fc.integer({ min: 0, max: 6 }),
  turned: fc.boolean(),
  zero: fc.boolean(),
  texts: fc.boolean(),
  off: rarely(8),
});

const NOTHING: ExpressionText = { text: '', refs: [] };

export function sheetOf(made: MadeSheet, on: Step, all: readonly Step[], id: string): LineSheetStep {
  const other = all[made.with % all.length] as Step;
  const arriving = arrivingFrom(all, on);
  const numbers = [on, other].map((each) => arriving(each).schema.fields.filter(({ type }) => isNumber(type)));
  const number = (slot: number) => numbers[slot]?.[made.of % (numbers[slot]?.length ?? 1)];
  const line = (at: number, figure: SheetLine['figure'], kind: SheetLine['kind'] = 'line'): SheetLine => ({
    id: `${id}-l${at}`,
    place: String(at * 10),
    wording: `line ${at}`,
    level: at % 3,
    kind,
    figure,
    format: at % 2 === 0 ? '#,##0.0' : '',
  });
  const told = (slot: number, aggregate: LineAggregate, among = NOTHING): SheetLine['figure'] => {
    const field = number(slot);
    if (!field) return { from: 'rows', slot, aggregate: 'rows', expression: NOTHING, among };
    return { from: 'rows', slot, aggregate, expression: written(field), among };
  };
  const above = (slot: number, least: number): ExpressionText => {
    const field = number(slot);
    return field ? { ...written(field), text: `${written(field).text} >= ${least}` } : NOTHING;
  };
  const lines = [
    line(1, told(0, made.aggregates[0] ?? 'rows')),
    line(2, told(0, made.aggregates[1] ?? 'sum', above(0, made.least))),
    line(3, told(1, made.aggregates[2] ?? 'average')),
    line(4, { from: 'lines', expression: { text: '100 * "line 1" / "line 2" - "line 5"', refs: [] } }),
    line(5, { from: 'range', since: `${id}-l1`, until: `${id}-l3` }, 'total'),
    line(6, { from: 'nothing' }, 'heading'),
  ];
  const fields = { fields: lines.map((each) => ({ id: each.id, name: each.wording })) } as never;
  const linked = lines.map((each): SheetLine => {
    if (each.figure.from !== 'lines') return each;
    return {
      ...each,
      figure: { ...each.figure, expression: linkReferences(each.figure.expression.text, { schema: fields, parameters: [] }) },
    };
  });
  const item = (name: string) => ({ id: `${id}-${name}`, name: `${name}_${id}` });
  const amount = (at: number, of: SheetAmount['of']): SheetAmount => ({
    ...item(`a${at}`),
    text: `${id}-t${at}`,
    format: at > 1 ? '0.00' : '',
    of,
  });
  const amounts = [
    amount(0, { from: 'rows', among: [] }),
    amount(1, { from: 'rows', among: [above(0, 2)] }),
    amount(2, { from: 'amounts', expression: { text: `"a0_${id}" - "a1_${id}"`, refs: [] } }),
    amount(3, { from: 'share', amount: `${id}-a0`, line: `${id}-l5`, within: made.turned ? 'its parts' : 'every line' }),
  ];
  return {
    id,
    kind: 'line sheet',
    name: '',
    off: made.off,
    inputs: [on.id, other.id],
    names: {
      line: item('line'),
      place: item('place'),
      wording: item('wording'),
      level: item('level'),
      kind: item('kind'),
      note: item('note'),
    },
    amounts,
    lines: made.turned ? linked.toReversed() : linked,
    empty: made.zero ? '0' : 'blank',
    texts: made.texts,
  };
}
