import type { Across, Field, FieldType, Layout, Mark, MarkLook, Role, SheetEntry } from '../src';
import {
  cellText,
  columnOver,
  columnText,
  columnWords,
  decimal,
  fittingLayout,
  freeColumns,
  keyColumn,
  legendOf,
  LINE,
  lineLabel,
  lineReader,
  lineWords,
  lookOf,
  marksOf,
  overWords,
  PLAIN_LAYOUT,
  placesBefore,
  proofTable,
  sheetFields,
  text,
  writerOf,
  writeTotal,
} from '../src';

const thin = '\u202f';
const field = (id: string, type: FieldType, role: Role): Field => ({
  id,
  name: id,
  type,
  role,
  origin: { step: 't', column: id },
  forUseOnly: false,
});
const sheet: readonly SheetEntry[] = [{ field: 'kilos', format: { pattern: '#,##0.0', unit: 'kg' } }];
const fields = sheetFields(
  { fields: [field('region', text, 'attribute'), field('kilos', decimal(8, 2), 'measure'), field('batch', text, 'code')] },
  sheet,
  [],
);
const layout = fittingLayout(
  {
    ...PLAIN_LAYOUT,
    levels: [{ field: 'region', descending: false, subtotal: true }],
    totals: [
      { field: 'kilos', aggregate: 'sum' },
      { field: 'kilos', aggregate: 'average' },
      { field: 'region', aggregate: 'distinct count' },
    ],
    marks: [
      { id: 'a', field: 'kilos', operator: 'above', operands: ['500'], look: 'boxed' },
      { id: 'b', field: 'kilos', operator: 'above', operands: ['900'], look: 'lettered' },
    ],
  } satisfies Layout,
  fields,
);
const table = proofTable(layout, fields);

test('a sum of numbers without a fixed scale has the decimals it has, and no more', () => {
  const open = { kind: 'decimal', precision: 38, scale: 12, open: true } as const;
  const [kilos] = sheetFields({ fields: [field('kilos', open, 'measure')] }, [], []);
  const write = writeTotal({ field: 'kilos', aggregate: 'sum' }, kilos ? [kilos] : []);
  expect([write('35.000000000000'), write('1234.500000000000')].map((each) => each.replaceAll(thin, ' '))).toEqual(['35', '1 234.5']);
});

test('totals that stand first close nothing, so no rule stands above them', () => {
  const columns = [LINE.kind, LINE.level, LINE.rows, keyColumn(1)].map((id) => ({ id }));
  const totalsOf = (level: string) => lineReader({ columns }, layout)(['0', '2', level, '7', 'north'] as never);
  const [subtotals, everything] = [totalsOf('1'), totalsOf('0')];
  const first = {
    ...layout,
    grandTotalFirst: true as const,
    levels: layout.levels.map((each) => ({ ...each, totalsFirst: true as const })),
  };
  expect([lookOf(subtotals, layout), lookOf(everything, layout)]).toEqual(['totals', 'grand total']);
  expect([lookOf(subtotals, first), lookOf(everything, first)]).toEqual(['further totals', 'further totals']);
});

test('what stands beside a total has columns of its own behind its field, in words', () => {
  const { totals } = layout;
  const beside = totals.map((each, at) => (at === 0 ? { ...each, beside: ['share', 'rank'] as const } : each));
  const wide = proofTable({ ...layout, totals: beside }, fields);
  expect(wide.columns.map(({ header, beside: kind }) => [header, kind])).toEqual([
    ['Kilos, kg', undefined],
    ['share, %', 'share'],
    ['rank', 'rank'],
    ['Kilos, kg, average', undefined],
    ['Batch', undefined],
  ]);
  const asked = {
    ...layout,
    totals: [{ field: 'kilos', aggregate: 'average' as const, beside: ['share', 'rank', 'running total'] as const }],
  };
  expect(fittingLayout(asked, fields).totals[0]?.beside).toEqual(['rank']);
});

const [kilos, average, batch] = table.columns;
if (!kilos || !average || !batch) throw new Error('three columns are shown beside the group');
const ids = [
  LINE.kind,
  LINE.level,
  LINE.rows,
  LINE.row,
  keyColumn(1),
  'total_0',
  'total_1',
  'total_2',
  'values_0',
  'values_1',
  'mark_0',
  'mark_1',
  'region',
  'kilos',
  'batch',
];
const proof = { columns: ids.map((id) => ({ id })) };
const line = (given: Readonly<Record<string, string | null>>) => lineReader(proof, layout)(['0', ...ids.map((id) => given[id] ?? null)]);

describe('a line of the proof', () => {
  test('that opens a group says its field and value, and how many rows it has', () => {
    const header = line({ [LINE.kind]: '0', [LINE.level]: '1', [LINE.rows]: '12', key_1: 'Fennick' });
    expect([lineWords(header, table), header.rows, columnText(header, kilos, table)]).toEqual(['Region: Fennick', '12', '']);
    expect(lineWords(line({ [LINE.kind]: '0', [LINE.level]: '1', key_1: null }), table)).toBe('Region: without a value');
    expect(lineWords(line({ [LINE.kind]: '0', [LINE.level]: '1', key_1: '' }), table)).toBe('Region: empty text');
  });

  test('that is a row shows its values in their formats', () => {
    const row = line({ [LINE.kind]: '1', key_1: 'Fennick', kilos: '1234.56', batch: 'FN-07' });
    expect([kilos, average, batch].map((each) => columnText(row, each, table))).toEqual([`1${thin}234.6`, '', 'FN-07']);
  });

  test('of totals puts each under its field, a second one in a column of its own; those of the group itself stand with its name', () => {
    const totals = line({ [LINE.kind]: '2', [LINE.level]: '1', key_1: 'Fennick', total_0: '1234.56', total_1: '10', total_2: '1' });
    expect(table.columns.map(({ header }) => header)).toEqual(['Kilos, kg', 'Kilos, kg, average', 'Batch']);
    expect([kilos, average, batch].map((each) => columnText(totals, each, table))).toEqual([`1${thin}234.6`, '10.0', '']);
    // Under the values of rows nothing else says which aggregate it is; the other column is called so.
    expect([kilos, average, batch].map((each) => columnWords(totals, each, table))).toEqual([`sum 1${thin}234.6`, '10.0', '']);
    expect(lineWords(totals, table)).toBe('Fennick, distinct count of Region 1');
  });

  test('of one aggregate only says which, and its figures need no word', () => {
    const one = { ...layout, totals: layout.totals.slice(0, 1) };
    const told = proofTable(one, fields);
    const sum = line({ [LINE.kind]: '2', [LINE.level]: '1', key_1: 'Fennick', total_0: '1234.56' });
    expect([lineWords(sum, told), ...told.columns.map((each) => columnWords(sum, each, told))]).toEqual([
      'Fennick, sum',
      `1${thin}234.6`,
      '',
    ]);
  });

  test('without rows every figure of several aggregates is headed by its own', () => {
    const grouped = proofTable({ ...layout, rows: false }, fields);
    expect(grouped.columns.map(({ header }) => header)).toEqual(['Kilos, kg, sum', 'Kilos, kg, average']);
    const totals = line({ [LINE.kind]: '2', [LINE.level]: '1', key_1: 'Fennick', total_0: '1234.56', total_1: '10' });
    expect(grouped.columns.map((each) => columnWords(totals, each, grouped))).toEqual([`1${thin}234.6`, '10.0']);
  });

  test('goes on with its words below the columns up to its first total; a row, and a line beside columns per value, do not', () => {
    const told = proofTable(layout, fields.toReversed());
    expect(told.columns.map(({ header }) => header)).toEqual(['Batch', 'Kilos, kg', 'Kilos, kg, average']);
    const header = line({ [LINE.kind]: '0', [LINE.level]: '1', [LINE.rows]: '12', key_1: 'Fennick' });
    const row = line({ [LINE.kind]: '1', key_1: 'Fennick', kilos: null, batch: null });
    const totals = { [LINE.kind]: '2', [LINE.level]: '1', key_1: 'Fennick' };
    expect(freeColumns(line({ ...totals, total_0: '5' }), told)).toBe(1);
    expect(freeColumns(line({ ...totals, total_1: '5' }), told)).toBe(2);
    expect(freeColumns(line(totals), told)).toBe(3);
    expect([header, row].map((each) => freeColumns(each, told))).toEqual([3, 0]);
    expect(freeColumns(header, { ...told, places: { words: [], over: 1 } })).toBe(0);
  });

  test('of averages says over how many values they are, not of how many rows', () => {
    const totals = line({
      [LINE.kind]: '2',
      [LINE.level]: '1',
      [LINE.rows]: '12',
      key_1: 'Fennick',
      total_1: '10',
      total_2: '1',
      values_1: '11',
    });
    expect([overWords(totals, table), columnOver(totals, kilos, table), columnOver(totals, average, table)]).toEqual([
      '12 rows, averages over 11 values',
      '',
      'over 11 values',
    ]);
    expect(lineLabel(totals, table)).toBe('Fennick, distinct count of Region 1, averages over 11 values');
    const every = line({ [LINE.kind]: '2', [LINE.level]: '1', [LINE.rows]: '12', key_1: 'Fennick', total_1: '10', values_1: '12' });
    expect(overWords(every, table)).toBe('12 rows');
    const averages = { ...layout, totals: [{ field: 'kilos', aggregate: 'average' as const }] };
    const only = line({ [LINE.kind]: '2', [LINE.level]: '1', [LINE.rows]: '12', key_1: 'Fennick', total_0: '10', values_0: '11' });
    expect(overWords(only, proofTable(averages, fields))).toBe('over 11 values');
    expect(lineLabel(only, proofTable(averages, fields))).toBe('Fennick, average over 11 values');
    expect(overWords(line({ [LINE.kind]: '2', [LINE.level]: '1', [LINE.rows]: '1', total_0: '10' }), table)).toBe('1 row');
  });

  test('looks as its marks say, letters included', () => {
    expect(marksOf(line({ [LINE.kind]: '1', mark_0: 'true', mark_1: 'true' }), kilos, table)).toMatchObject({ letters: 'a' });
    expect(marksOf(line({ [LINE.kind]: '1', mark_0: 'true', mark_1: 'false' }), kilos, table).looks).toEqual(['boxed']);
    expect(marksOf(line({ [LINE.kind]: '1', mark_0: 'true' }), batch, table)).toEqual({ looks: [], letters: '' });
  });
});

test('a line is told by what it is to who reads it: totals, further ones of the same group, and those of everything', () => {
  const totals = (level: string) => lookOf(line({ [LINE.kind]: '2', [LINE.level]: level }), layout);
  expect([totals('1'), totals('0')]).toEqual(['totals', 'grand total']);
  expect([lookOf(line({ [LINE.kind]: '0' }), layout), lookOf(line({ [LINE.kind]: '1' }), layout)]).toEqual(['header', 'row']);
});

test('nothing is printed for null, a mark for a value that fits no type, and dots for a cut text', () => {
  const write = writerOf({ type: text, role: 'attribute' }, undefined);
  expect([cellText(null, write), cellText({ m: 'infinity' }, write), cellText({ t: 'bee', n: 900 }, write)]).toEqual([
    '',
    '! infinity',
    'bee…',
  ]);
});

test('the unit stands in the header', () => expect(kilos.header).toBe('Kilos, kg'));

describe('a table with columns per value', () => {
  const batches = { field: 'batch', descending: false, subtotal: true };
  const found = (...values: readonly (string | null)[]) => values.map((value) => [{ value }]);
  const wanted: Layout = {
    ...PLAIN_LAYOUT,
    levels: [{ field: 'region', descending: false, subtotal: true }],
    across: { levels: [batches], total: true },
    totals: [
      { field: 'kilos', aggregate: 'sum' },
      { field: 'kilos', aggregate: 'average' },
    ],
  };
  const across = fittingLayout(wanted, fields);
  const table = proofTable(across, fields, found('A', '', null));

  test('has a head per value, one for what has none, and one for all of them', () => {
    expect(table.heads).toEqual([
      ['A', 'empty text', 'without a value', 'Everything'].map((words, first) => ({ words, first, places: 1, columns: 2 })),
    ]);
    expect(table.columns.map((each) => each.header).slice(0, 2)).toEqual(['Kilos, kg, sum', 'Kilos, kg, average']);
    expect(new Set(table.columns.map((each) => each.key)).size).toBe(8);
  });

  test('totals over them stand before them where that is asked for, each figure under its own head', () => {
    const before = proofTable({ ...across, across: { ...wanted.across, totalsFirst: true } as Across }, fields, found('A', 'B'));
    expect(before.places?.words).toEqual(['Everything', 'A', 'B']);
    expect(before.columns.map(({ place, total }) => [place, total])).toEqual(
      [0, 1, 2, 3, 4, 5].map((total) => [Math.floor(total / 2), total]),
    );
  });

  test('with a level within another, each value of the first stands over its own, and over what is in it together', () => {
    const regions = { field: 'region', descending: false, subtotal: true };
    const both = (first: object) =>
      proofTable(
        fittingLayout({ ...wanted, levels: [], across: { levels: [{ ...regions, ...first }, batches], total: true } }, fields),
        fields,
        [
          ['north', 'A'],
          ['north', 'B'],
          ['south', 'A'],
        ].map((place) => place.map((value) => ({ value }))),
      );
    const heads = (first: object) => both(first).heads.map((line) => line.map(({ words, places }) => [words, places]));
    expect(heads({})).toEqual([
      [
        ['north', 3],
        ['south', 2],
        ['Everything', 1],
      ],
      [
        ['A', 1],
        ['B', 1],
        ['together', 1],
        ['A', 1],
        ['together', 1],
        ['', 1],
      ],
    ]);
    expect(heads({ ofSeveral: true, totalsFirst: true })[1]?.map(([words]) => words)).toEqual(['together', 'A', 'B', 'A', '']);
    expect(heads({ subtotal: false })[0]).toEqual([
      ['north', 2],
      ['south', 1],
      ['Everything', 1],
    ]);
    expect(both({}).places?.words).toEqual(['north, A', 'north, B', 'north', 'south, A', 'south', 'Everything']);
  });

  test('what a column is against the one before is told among those of its group, and of no total', () => {
    const key = (value: string, rest?: true) => ({ value: rest ? null : value, ...(rest ? { rest } : {}) });
    const places = [
      [key('2024'), key('A')],
      [key('2024'), key('B')],
      [key('2024')],
      [key('2025'), key('A')],
      [key('2025'), key('', true)],
      [key('2025')],
      [],
    ];
    expect(placesBefore(places)).toEqual([undefined, 0, undefined, undefined, undefined, 2, undefined]);
    const asked = { ...wanted, totals: [{ field: 'kilos', aggregate: 'sum' as const, beside: ['difference across'] as const }] };
    expect(fittingLayout(asked, fields).totals[0]?.beside).toEqual(['difference across']);
    expect(fittingLayout({ ...PLAIN_LAYOUT, totals: asked.totals }, fields).totals[0]?.beside).toBeUndefined();
  });

  test('one aggregate needs no word in the heads, and without totals behind there is no last head', () => {
    const one = fittingLayout(
      { ...wanted, across: { levels: [batches], total: false }, totals: [{ field: 'kilos', aggregate: 'sum' }] },
      fields,
    );
    const plain = proofTable(one, fields, found('A'));
    expect([plain.places?.words.length, plain.columns.map((each) => each.header)]).toEqual([1, ['Kilos, kg']]);
  });

  test('each figure stands under its value, an average says over how many', () => {
    const columns = [
      LINE.kind,
      LINE.level,
      LINE.rows,
      keyColumn(1),
      ...[0, 1, 2, 3].map((each) => `total_${each}`),
      'values_3',
      'cell_rows_0',
      'cell_rows_1',
    ].map((id) => ({ id }));
    const line = lineReader({ columns }, across)(['0', '2', '1', '7', 'north', '10', '2.5', '1234', null, '4', '3', '2'] as never);
    const shown = table.columns.slice(0, 4).map((each) => columnText(line, each, table));
    expect(shown).toEqual(['10.0', '2.5', `1${thin}234.0`, '']);
    expect(table.columns.slice(0, 4).map((each) => columnOver(line, each, table))).toEqual(['', '', '', 'over 4 values']);
    expect(lineWords(line, table)).toBe('north');
  });

  test('no rows is told as it is asked for, and is another thing than rows without a value', () => {
    const columns = [LINE.kind, LINE.level, 'total_0', 'cell_rows_0'].map((id) => ({ id }));
    const shown = (empty: 'blank' | '0' | 'a dash') => {
      const said = { ...across, across: { levels: [batches], total: true, empty } };
      const line = lineReader({ columns }, said)(['0', '2', '1', null, '5'] as never);
      return proofTable(said, fields, found('A', 'B'))
        .columns.filter((each) => (each.total ?? 0) % 2 === 0)
        .map((each) => columnText(line, each, { ...table, layout: said }));
    };
    expect(shown('blank')).toEqual(['', '', '']);
    expect(shown('0')).toEqual(['', '0', '0']);
    expect(shown('a dash')).toEqual(['', '–', '–']);
  });
});

test('a mark of totals stands on those of its aggregate, asked of their own values', () => {
  const marks: Layout['marks'] = [{ id: 'a', field: 'kilos', of: 'sum', operator: 'above', operands: ['2000'], look: 'strong' }];
  const marked = { ...layout, ...fittingLayout({ ...layout, marks }, fields) };
  const own = proofTable(marked, fields);
  const [column, second] = own.columns;
  if (!column || !second) throw new Error('kilos are shown');
  const total = (sum: string) => {
    const cells: Readonly<Record<string, string>> = { [LINE.kind]: '2', [LINE.level]: '1', total_0: sum, total_1: sum };
    return lineReader({ columns: ids.map((id) => ({ id })) }, marked)([0, ...ids.map((id) => cells[id] ?? null)] as never);
  };
  expect(marksOf(total('2500.00'), column, own).looks).toEqual(['strong']);
  expect(marksOf(total('1999.99'), column, own).looks).toEqual([]);
  // An average of more is another figure.
  expect(marksOf(total('2500.00'), second, own).looks).toEqual([]);
  expect(
    fittingLayout({ ...layout, marks: [{ id: 'b', field: 'batch', of: 'sum', operator: 'above', operands: ['1'], look: 'boxed' }] }, fields)
      .marks,
  ).toEqual([]);
});

test('good and poor carry a sign, and of several thresholds the first that holds is the one', () => {
  const by = (id: string, operator: string, value: string, look: MarkLook): Mark => ({
    id,
    field: 'kilos',
    of: 'sum',
    operator,
    operands: [value],
    look,
  });
  const marks = [by('a', 'above', '2000', 'good'), by('b', 'above', '1000', 'poor'), by('c', 'above', '1500', 'boxed')];
  const marked = { ...layout, ...fittingLayout({ ...layout, marks }, fields) };
  const own = proofTable(marked, fields);
  const [column] = own.columns;
  if (!column) throw new Error('kilos are shown');
  const cells = (sum: string): Record<string, string> => ({ [LINE.kind]: '2', [LINE.level]: '1', total_0: sum });
  const read = lineReader({ columns: ids.map((id) => ({ id })) }, marked);
  const at = (sum: string) => marksOf(read([0, ...ids.map((id) => cells(sum)[id] ?? null)] as never), column, own);
  expect(at('2500.00')).toEqual({ looks: ['good', 'boxed'], letters: '+' });
  expect(at('1700.00')).toEqual({ looks: ['poor', 'boxed'], letters: '\u2212' });
  expect(at('900.00')).toEqual({ looks: [], letters: '' });
  expect(column.letters).toBe(1);
  expect(legendOf(own)).toEqual(['+: sum of Kilos above 2000', '\u2212: sum of Kilos above 1000']);
});
