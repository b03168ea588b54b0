import type { Definition, LineSheetStep, Parameter, Period, SheetLine, Step } from '../src';
import {
  addItem,
  applyEdits,
  bindValues,
  checkedOf,
  checkedStep,
  checkTrail,
  evaluateTrail,
  invertEdits,
  kindOf,
  lineSheetStep,
  linkReferences,
  nextLine,
  NOTHING_ARRIVES,
  periodAmounts,
  reworded,
} from '../src';
import { rows as harvestRows, told, trailOf } from './support/apiaries';

/** Lines in a fixed order, each with figures of its own. */

const binding = bindValues([], {}, 0n);
const text = (written: string) => ({ text: written, refs: [] });
const NOTHING = text('');

const of = (aggregate: 'rows' | 'sum' | 'average' | 'count', expression = '', among = '', slot = 0): SheetLine['figure'] => ({
  from: 'rows',
  slot,
  aggregate,
  expression: text(expression),
  among: text(among),
});
const written = (expression: string): SheetLine['figure'] => ({ from: 'lines', expression: text(expression) });
const line = (place: string, wording: string, figure: SheetLine['figure'], more: Partial<SheetLine> = {}): SheetLine => ({
  id: `l${place}`,
  place,
  wording,
  level: 0,
  kind: 'line',
  figure,
  format: '',
  ...more,
});

let minted = 0;
const sheet = (lines: readonly SheetLine[], more: Partial<LineSheetStep> = {}): LineSheetStep => ({
  ...lineSheetStep(() => `m${++minted}`, 'h'),
  id: 'sheet',
  lines,
  ...more,
});
const codes = (definition: Definition) =>
  checkTrail(definition).problems.map(({ code, place }) => `${code}${place.field === undefined ? '' : ` at ${place.field}`}`);
const amount = (name: string, figures: LineSheetStep['amounts'][number]['of'], format = ''): LineSheetStep['amounts'][number] => ({
  id: `a-${name}`,
  name,
  text: `t-${name}`,
  format,
  of: figures,
});

const SEASON = [
  line('10', 'Kilos', of('sum', 'kilos')),
  line('20', 'of which lime', of('sum', 'kilos', "flower = 'lime'"), { level: 1 }),
  line('30', 'Share of lime', written('round(100 * "of which lime" / Kilos, 1)'), { format: "0.0'%'" }),
  line('40', 'Harvests', of('rows')),
];

test('each line is one row in its place, whatever its figure is made of', () => {
  expect(told(trailOf(sheet(SEASON)), binding, 'line', 'place', 'wording', 'level', 'amount')).toEqual([
    '1 10 Kilos 0 41.00',
    '2 20 of which lime 1 30.00',
    '3 30 Share of lime 0 73.20',
    '4 40 Harvests 0 5.00',
  ]);
});

test('figures also stand as text, each in the pattern of its line, or in the digits it has', () => {
  expect(told(trailOf(sheet(SEASON, { texts: true })), binding, 'amount_as_shown')).toEqual(['41', '30', '73.2%', '5']);
});

test('lines above may be calculated of those below, and a subtotal adds up what stands between, without totals', () => {
  const lines = [
    line('10', 'Everything', written('Lime + Heather')),
    line('20', 'Lime', of('sum', 'kilos', "flower = 'lime'")),
    line('25', 'Both at once', { from: 'range', since: 'l20', until: 'l30' }, { kind: 'total' }),
    line('30', 'Heather', of('sum', 'kilos', "flower = 'heather'")),
    line('40', 'All of it', { from: 'range', since: 'l20', until: 'l30' }, { kind: 'total' }),
  ];
  expect(told(trailOf(sheet(lines)), binding, 'amount')).toEqual(['35.50', '30.00', '35.50', '5.50', '35.50']);
});

test('headings and blanks have no figure, and what no row has a value for is blank or 0, and says so', () => {
  const lines = [
    line('10', 'Yield', { from: 'nothing' }, { kind: 'heading' }),
    line('20', 'Thyme', of('sum', 'kilos', "flower = 'thyme'")),
    line('30', 'Harvests of thyme', of('rows', '', "flower = 'thyme'")),
  ];
  expect(told(trailOf(sheet(lines)), binding, 'kind', 'amount', 'note')).toEqual([
    'heading null null',
    'line null no row has a value',
    'line 0.00 null',
  ]);
  expect(told(trailOf(sheet(lines, { empty: '0' })), binding, 'amount', 'note').slice(1)).toEqual([
    '0.00 no row has a value, shown as 0',
    '0.00 null',
  ]);
});

test('a percent of zero is blank under its name, and a subtotal of lines without figures is one', () => {
  const lines = [
    line('10', 'Thyme', of('rows', '', "flower = 'thyme'")),
    line('20', 'Per thyme', written('100 / Thyme')),
    line('30', 'Nothing', of('sum', 'kilos', 'kilos > 1000')),
    line('40', 'Adds up nothing', { from: 'range', since: 'l30', until: 'l30' }, { kind: 'total' }),
  ];
  expect(told(trailOf(sheet(lines)), binding, 'wording', 'amount', 'note')).toEqual([
    'Thyme 0.000000 null',
    'Per thyme null cannot be calculated: it divides by 0, or has too many digits',
    'Nothing null no row has a value',
    'Adds up nothing null null',
  ]);
});

test('one amount for each value, the change between them, and each in hundredths of a line', () => {
  const amounts = [
    amount('fennick', { from: 'rows', among: [text("region = 'Fennick'")] }),
    amount('orrin', { from: 'rows', among: [text("region = 'Orrin Vale'")] }),
    amount('change', { from: 'amounts', expression: text('orrin - fennick') }),
    amount('share', { from: 'share', amount: 'a-orrin', line: 'l10', within: 'every line' }, '0.0'),
  ];
  const lines = [line('10', 'Kilos', of('sum', 'kilos')), line('20', 'Lime', of('sum', 'kilos', "flower = 'lime'"))];
  const given = trailOf(sheet(lines, { amounts, texts: true }));
  expect(told(given, binding, 'wording', 'fennick', 'orrin', 'change', 'share_as_shown')).toEqual([
    'Kilos 15.50 25.50 10.00 100.0',
    'Lime 10.00 20.00 10.00 78.4',
  ]);
});

test('a share may be told in the parts of its line only: percents of what they are no part of say nothing', () => {
  const lines = [
    line('10', 'Lime', of('sum', 'kilos', "flower = 'lime'")),
    line('20', 'Heather', of('sum', 'kilos', "flower = 'heather'")),
    line('30', 'Both', { from: 'range', since: 'l10', until: 'l20' }, { kind: 'total' }),
    line('40', 'Harvests', of('rows')),
  ];
  const shares = (within: 'every line' | 'its parts') =>
    told(
      trailOf(
        sheet(lines, {
          amounts: [
            amount('kilos_of', { from: 'rows', among: [] }),
            amount('share', { from: 'share', amount: 'a-kilos_of', line: 'l30', within }),
          ],
        }),
      ),
      binding,
      'share',
    );
  expect(shares('its parts')).toEqual(['84.507042', '15.492958', '100.000000', 'null']);
  expect(shares('every line')[3]).toBe('14.084507');
});

test('lines of several steps stand on one sheet, each told of its own rows', () => {
  const criteria: Step = {
    id: 'c',
    kind: 'criteria',
    name: '',
    off: false,
    inputs: ['h'],
    head: 'every one',
    clauses: [{ id: 'x', kind: 'expression', off: false, expression: text('kilos < 10') }],
  };
  const lines = [line('10', 'All', of('rows')), line('20', 'Small', of('rows', '', '', 1)), line('30', 'Large', written('"All" - Small'))];
  expect(told(trailOf(criteria, sheet(lines, { inputs: ['h', 'c'] })), binding, 'amount')).toEqual(['5', '2', '3']);
});

test('its figures add up over nothing, its places are codes, and a line is told by its number', () => {
  const checked = checkedStep(checkTrail(trailOf(sheet(SEASON))), 'sheet');
  expect(checked?.grain).toMatchObject({ row: 'line', rows: 'lines' });
  expect(checked?.schema.fields.map(({ name, role, addsUp }) => [name, role, addsUp])).toEqual([
    ['line', 'key', undefined],
    ['place', 'code', undefined],
    ['wording', 'attribute', undefined],
    ['amount', 'measure', 'over nothing'],
    ['level', 'code', undefined],
    ['kind', 'attribute', undefined],
    ['note', 'attribute', undefined],
  ]);
  const step = sheet(SEASON);
  expect(kindOf(step).order?.(step)).toEqual([{ field: step.names.line.id, descending: false, nullsFirst: false }]);
});

test.each<[string, readonly SheetLine[], Partial<LineSheetStep>, readonly string[]]>([
  ['no line', [], {}, ['sheet-empty']],
  ['no figures', [line('1', 'a', of('rows'))], { amounts: [] }, ['sheet-empty']],
  ['a line without wording', [line('1', '', of('rows'))], {}, ['wording-missing at l1']],
  ['one place twice', [line('1', 'a', of('rows')), { ...line('1', 'b', of('rows')), id: 'l2' }], {}, ['place-twice at l2']],
  ['a line of itself', [line('1', 'a', written('a + 1'))], {}, ['line-circular at l1']],
  [
    'lines of one another',
    [line('1', 'a', written('b + 1')), line('2', 'b', written('a'))],
    {},
    ['line-circular at l2', 'line-without-figure at l1'],
  ],
  [
    'a subtotal a line in it is made of',
    [line('1', 'a', written('s')), line('2', 's', { from: 'range', since: 'l1', until: 'l1' }, { kind: 'total' })],
    {},
    ['line-circular at l2', 'line-without-figure at l1'],
  ],
  ['a subtotal of nothing', [line('1', 'a', { from: 'range', since: 'l1', until: 'l1' })], {}, ['range-empty at l1']],
  ['a subtotal of a line that is gone', [line('1', 'a', { from: 'range', since: 'l1', until: 'l9' })], {}, ['range-missing at l1']],
  ['a line that is gone', [line('1', 'a', written('Honey'))], {}, ['field-unknown at l1']],
  ['nothing written', [line('1', 'a', written(''))], {}, ['figure-missing at l1']],
  ['a text', [line('1', 'a', written("'heather'"))], {}, ['figure-unsuited at l1']],
  [
    'the least of a day',
    [line('1', 'a', { ...of('rows'), aggregate: 'least', expression: text('picked') } as SheetLine['figure'])],
    {},
    ['figure-unsuited at l1'],
  ],
  ['a sum of a text', [line('1', 'a', of('sum', 'region'))], {}, ['aggregate-unsuited at l1']],
  ['a field that is gone', [line('1', 'a', of('sum', 'wax'))], {}, ['field-unknown at l1']],
  ['a step that is gone', [line('1', 'a', of('rows', '', '', 3))], {}, ['step-missing at l1']],
  ['a pattern that is none', [line('1', 'a', of('rows'), { format: '0.0.0' })], {}, ['format-unsuited at l1']],
  [
    'a share of what is missing',
    [line('1', 'a', of('rows'))],
    {
      amounts: [
        amount('whole', { from: 'rows', among: [] }),
        amount('of', { from: 'share', amount: 'a-none', line: 'l9', within: 'every line' }),
      ],
    },
    ['amount-missing at a-of', 'line-missing at a-of'],
  ],
  [
    'one name twice',
    [line('1', 'a', of('rows'))],
    { amounts: [amount('place', { from: 'rows', among: [] })] },
    ['name-taken at a-place', 'name-twice at place', 'name-twice at a-place'],
  ],
])('%s is said at its place', (_what, lines, more, expected) => {
  const found = sheet(lines, more);
  expect(codes(trailOf(found)).map((each) => each.replace(found.names.place.id, 'place'))).toEqual(expected);
});

test('a line nobody wrote is told as a line, with the nearest there is', () => {
  const found = checkTrail(trailOf(sheet([line('1', 'Honey', of('rows')), line('2', 'Twice', written('Hony * 2'))]))).problems;
  expect(found.map(({ message, expected }) => [message, expected])).toEqual([['There is no line Hony here.', 'did you mean Honey?']]);
});

test('a line that is worded anew is named so where others are made of it, also where two are worded alike', () => {
  const schema = { fields: SEASON.map((each) => ({ id: each.id, name: each.wording })) } as never;
  const linked = SEASON.map((each): SheetLine => {
    const { figure } = each;
    return figure.from === 'lines'
      ? { ...each, figure: { ...figure, expression: linkReferences(figure.expression.text, { schema, parameters: [] }) } }
      : each;
  });
  const step = sheet(linked);
  const once = { ...step, lines: reworded(step, 'l10', { wording: 'Kilos of all' }) };
  expect(once.lines[2]?.figure).toMatchObject({ expression: { text: 'round(100 * "of which lime" / "Kilos of all", 1)' } });
  const twice = { ...once, lines: reworded(once, 'l20', { wording: 'Kilos of all' }) };
  expect(twice.lines[2]?.figure).toMatchObject({ expression: { text: 'round(100 * "20 Kilos of all" / "10 Kilos of all", 1)' } });
  expect(told(trailOf(twice), binding, 'amount')[2]).toBe('73.20');
});

test('figures that are called something else are named so where others are made of them', () => {
  const schema = {
    fields: [
      { id: 'a-now', name: 'now' },
      { id: 'a-then', name: 'then_' },
    ],
  } as never;
  const amounts = [
    amount('now', { from: 'rows', among: [] }),
    { ...amount('then', { from: 'rows', among: [] }), name: 'then_' },
    amount('change', { from: 'amounts', expression: linkReferences('now - then_', { schema, parameters: [] }) }),
  ];
  const step = sheet(SEASON, { amounts });
  const renamed = kindOf(step).withFieldNamed(step, 'a-now', 'this season') as LineSheetStep;
  expect(renamed.amounts[2]?.of).toMatchObject({ expression: { text: '"this season" - then_' } });
  expect(told(trailOf(renamed), binding, 'change')[0]).toBe('0.00');
});

describe('figures of a period, of the one before, and their change', () => {
  const arriving = [checkedStep(checkTrail(trailOf()), 'h') ?? NOTHING_ARRIVES];
  const picked = arriving[0]?.schema.fields.find((each) => each.id === 'picked');
  const asked = (period: Period, asOf?: Parameter) => {
    let count = 0;
    return periodAmounts(() => `p${count++}`, sheet([]), arriving, asOf ? [asOf] : [], {
      period,
      days: [picked],
      ...(asOf ? { asOf } : {}),
    });
  };
  const day: Parameter = {
    id: 'day',
    name: 'day',
    type: 'date',
    takes: 'one',
    leftBlank: 'must be filled',
    startsAs: ['2025-06-10'],
    hint: '',
  };
  const figures = (period: Period, at: string) => {
    const trail = { ...trailOf(sheet(SEASON, { amounts: asked(period, day) })), parameters: [day] };
    return told(trail, bindValues([day], { day: [at] }, 0n), `this_${period}`, `last_${period}`, 'change').slice(0, 1);
  };

  test('lie in the periods of the calendar, told of a parameter’s day', () => {
    expect(figures('month', '2025-06-10')).toEqual(['25.50 null null']);
    expect(figures('quarter', '2025-07-01')).toEqual(['null 41.00 null']);
    expect(figures('season', '2025-06-10')).toEqual(['41.00 null null']);
    expect(figures('season', '2026-05-01')).toEqual(['null 41.00 null']);
  });

  test('are told of today where nothing else is said, under free names', () => {
    const amounts = asked('season');
    expect(amounts.map((each) => each.name)).toEqual(['this_season', 'last_season', 'change']);
    expect(amounts[0]?.of).toMatchObject({
      among: [{ text: 'picked between start_of_season(current_date) and end_of_season(current_date)' }],
    });
    const twice = periodAmounts(() => `q${minted++}`, { ...sheet([]), amounts }, arriving, [], { period: 'season', days: [picked] });
    expect(twice.map((each) => each.name)).toEqual(['this_season_2', 'last_season_2', 'change_2']);
    expect(codes(trailOf(sheet(SEASON, { amounts: [...amounts, ...twice] })))).toEqual([]);
  });
});

test('a figure of more digits than a line holds is blank, and says so', () => {
  const lines = [line('10', 'Enough', of('sum', 'kilos')), line('20', 'Too many', written('Enough * 1000000000000000'))];
  expect(told(trailOf(sheet(lines)), binding, 'amount', 'note')).toEqual([
    '41.00 null',
    'null cannot be calculated: it divides by 0, or has too many digits',
  ]);
});

test('lines are added at the next place of ten; adding one is undone', () => {
  const step = sheet(SEASON);
  const added = nextLine(() => 'new', step, { wording: 'Hives' });
  expect(added.place).toBe('50');
  const definition = trailOf(step);
  const edit = addItem(step, 'lines', added, 1);
  const after = applyEdits(definition, [edit]);
  expect((after.steps.at(-1) as LineSheetStep).lines.map((each) => each.id)).toEqual(['l10', 'new', 'l20', 'l30', 'l40']);
  expect(applyEdits(after, invertEdits([edit]))).toEqual(definition);
});

test('who may not see values sees no wording and no condition, and as many lines', () => {
  const hidden = kindOf(sheet(SEASON)).withoutValues(sheet(SEASON)) as LineSheetStep;
  expect(JSON.stringify(hidden)).not.toMatch(/lime|Kilos|Harvests/);
  expect(hidden.lines).toHaveLength(SEASON.length);
});

test('ids are exchanged everywhere, and the sheet says the same', () => {
  const lines = [...SEASON, line('50', 'Sum', { from: 'range', since: 'l10', until: 'l20' }, { kind: 'total' })];
  const step = sheet(lines, {
    amounts: [
      amount('all', { from: 'rows', among: [NOTHING] }),
      amount('of', { from: 'share', amount: 'a-all', line: 'l10', within: 'every line' }),
    ],
  });
  const copy = kindOf(step).withIds(step, (id) => (id === 'h' ? 'h' : `${id}-copy`)) as LineSheetStep;
  const [all, other] = [step, copy].map((each) => told({ ...trailOf(each), result: each.id }, binding, 'wording', 'all', 'of'));
  expect(other).toEqual(all);
  const own = JSON.stringify(copy).match(/"(l\d+|a-\w+|m\d+)"/g) ?? [];
  expect(own).toEqual([]);
});

test('a sheet without a line of rows stands all the same', () => {
  const lines = [line('10', 'Typed', written('12.5')), line('20', 'Twice', written('2 * Typed'))];
  expect(told(trailOf(sheet(lines)), binding, 'amount')).toEqual(['12.5', '25.0']);
});

test('its rows are as many as its lines, however many arrive', () => {
  const checked = checkedOf('line sheet', checkedStep(checkTrail(trailOf(sheet(SEASON))), 'sheet'));
  expect(checked?.blocked).toBe(false);
  expect(evaluateTrail(trailOf(sheet(SEASON)), 'sheet', binding, () => harvestRows.slice(0, 0)).rows).toHaveLength(4);
});
