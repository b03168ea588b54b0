import type { Layout, Mark, SheetField } from '../src';
import {
  decimal,
  editSentence,
  fittingLayout,
  layoutProblems,
  layoutWithIds,
  LINE,
  lineReader,
  markCondition,
  marksOf,
  markWords,
  PLAIN_LAYOUT,
  proofTable,
  sheetFields,
  text,
} from '../src';
import { handed as field } from './support/fields';
import { definition } from './support/harvests';

/** Marks that compare with something of the proof itself: another field, another total, an average. */

const fields: readonly SheetField[] = sheetFields(
  {
    fields: [
      field('grade', text, 'attribute'),
      field('flower', text, 'attribute'),
      field('kilos', decimal(8, 2), 'measure'),
      field('sold', decimal(8, 3), 'measure'),
    ],
  },
  [],
  [],
);
const mark = (given: Partial<Mark>): Mark => ({ id: 'm', field: 'kilos', operator: 'above', operands: [], look: 'strong', ...given });
const level = { field: 'grade', descending: false, subtotal: true };
const totals = ['kilos', 'sold'].map((id) => ({ field: id, aggregate: 'sum' as const }));
const layout = (given: Partial<Layout>): Layout => ({ ...PLAIN_LAYOUT, levels: [level], totals, ...given });
const told = (asked: Mark, given: Partial<Layout> = {}) =>
  layoutProblems(layout({ marks: [asked], ...given }), fields).map(({ code, message }) => [code, message]);

test('one that compares with another field asks of both, and with nothing that is no value of its kind', () => {
  expect(markCondition(mark({ against: { of: 'field', field: 'sold' } }), fields).expression).toBeDefined();
  expect(told(mark({ against: { of: 'field', field: 'grade' } }))).toEqual([
    ['type-mixed', 'kilos is a decimal(8,2) and grade is a text.'],
  ]);
  expect(told(mark({ against: { of: 'field', field: 'gone' } }))).toEqual([
    ['proof-field-gone', 'The proof compares a mark with a field that is not handed over.'],
  ]);
  expect(told(mark({ field: 'grade', operator: 'is', against: { of: 'average' } }))).toEqual([
    ['mark-unsuited', 'grade has no average to be compared with.'],
  ]);
  expect(fittingLayout(layout({ marks: [mark({ against: { of: 'field', field: 'gone' } })] }), fields).marks).toEqual([]);
});

test('on totals it needs the other one among them, and one that may be made', () => {
  const of = { of: 'sum', against: { of: 'field', field: 'sold' } } as const;
  expect(told(mark(of))).toEqual([]);
  expect(told(mark(of), { totals: totals.slice(0, 1) })).toEqual([
    ['mark-without-figure', 'The sum of sold is none of the totals, so nothing is compared with it.'],
  ]);
  expect(told(mark({ of: 'sum', against: { of: 'field', field: 'grade' } }))).toEqual([
    ['mark-unsuited', 'The sum of grade is not allowed, so nothing is compared with it.'],
  ]);
});

test('it stands on the total of its line and column that holds against the other there', () => {
  const marks = [
    mark({ id: 'over', of: 'sum', against: { of: 'field', field: 'sold' }, look: 'boxed' }),
    mark({ id: 'best', of: 'sum', against: { of: 'average' }, look: 'good' }),
  ];
  const across = { levels: [{ ...level, field: 'flower' }], total: false };
  const fitting = fittingLayout(layout({ marks, across }), fields);
  const table = proofTable(fitting, fields, [[{ value: 'lime' }], [{ value: 'clover' }]]);
  const told = { [LINE.kind]: '2', [LINE.level]: '1', key_1: 'A', cell_rows_0: '4', cell_rows_1: '4' };
  const figures = {
    total_0: '10.00',
    total_1: '9.999',
    total_2: '3.00',
    total_3: '12.000',
    beside_0_average: '11',
    beside_2_average: '2.5',
  };
  const cells = Object.entries({ ...told, ...figures });
  const read = lineReader({ columns: cells.map(([id]) => ({ id })) }, fitting);
  const line = read(['0', ...cells.map(([, cell]) => cell)]);
  expect(table.columns.map((each) => marksOf(line, each, table).looks)).toEqual([['boxed'], [], ['good'], []]);
});

test('it is said with what it compares with, and goes with a copy', () => {
  const asked = mark({ against: { of: 'field', field: 'sold' } });
  expect(markWords(asked, fields)).toBe('Kilos above Sold');
  expect(markWords(mark({ of: 'sum', against: { of: 'field', field: 'sold' } }), fields)).toBe('sum of Kilos above the sum of Sold');
  expect(markWords(mark({ against: { of: 'average' } }), fields)).toBe('Kilos above the average of its group');
  expect(markWords(mark({ of: 'sum', against: { of: 'average' } }), fields)).toBe('sum of Kilos above the average of the groups');
  const copied = layoutWithIds(layout({ marks: [asked] }), (id) => `new ${id}`).marks[0];
  expect(copied?.against).toEqual({ of: 'field', field: 'new sold' });
  const said = editSentence({ kind: 'set proof', property: 'marks', from: [], to: [mark({ against: { of: 'average' } })] }, definition);
  expect(said).toContain('marks kilos where above the average of its group (strong)');
});
