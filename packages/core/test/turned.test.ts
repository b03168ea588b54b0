import fc from 'fast-check';
import type { Definition, Layout, SheetField, Step, UnpivotStep, Value } from '../src';
import {
  addItem,
  applyEdits,
  bindValues,
  checkedStep,
  checkTrail,
  evaluateTrail,
  fittingLayout,
  invertEdits,
  layoutProblems,
  NOTHING_ARRIVES,
  ofWhole,
  PLAIN_LAYOUT,
  reportFields,
  totalsOf,
  unpivotLine,
  unpivotStep,
  watchedAt,
} from '../src';
import { told, trailOf, unpivot } from './support/apiaries';

/** Fields that become rows: each row stands once per line, and what that does to sums is said everywhere. */

const binding = bindValues([], {}, 0n);
const codes = (definition: Definition) => checkTrail(definition).problems.map((each) => each.code);

test('each row stands once per line, with what it is and its value there; the other fields pass through', () => {
  expect(told(trailOf(unpivot()), binding, 'id', 'grouping', 'value', 'kilos').slice(0, 4)).toEqual([
    '1 region Fennick 10.00',
    '1 flower lime 10.00',
    '2 region Fennick 5.50',
    '2 flower heather 5.50',
  ]);
  expect(told(trailOf(unpivot({ nulls: false })), binding, 'id')).toHaveLength(8);
});

test('fields that go together stand in one row, whatever number of them', () => {
  const pairs = unpivot({
    values: [
      { id: 'a', name: 'kilos_of', as: null },
      { id: 'b', name: 'where', as: null },
    ],
    lines: [
      { id: 'l1', word: 'picked', from: ['kilos', 'region'] },
      { id: 'l2', word: 'spun', from: ['honey', null] },
    ],
  });
  expect(told(trailOf(pairs), binding, 'grouping', 'kilos_of', 'where').slice(0, 2)).toEqual(['picked 10.00 Fennick', 'spun 8.00 null']);
});

test('its grain is one row per row and line, and measures add up within one grouping from there on', () => {
  const trail = checkTrail(trailOf(unpivot()));
  const checked = checkedStep(trail, 'u');
  expect(checked?.grain).toMatchObject({ row: 'harvest and grouping', keys: [['id', 'what']] });
  expect(checked?.schema.fields.filter((each) => each.addsUp).map(({ name, addsUp, within }) => [name, addsUp, within])).toEqual([
    ['kilos', 'within one grouping', 'what'],
    ['honey', 'within one grouping', 'what'],
  ]);
  // A watched sum is not told where it would count twice.
  expect([...watchedAt(trail, { field: 'kilos', aggregate: 'sum' }).keys()]).toEqual(['h']);
  expect([...watchedAt(trail, { field: 'kilos', aggregate: 'distinct count' }).keys()]).toEqual(['h', 'u']);
});

test('turned measures themselves are told apart too, and one line alone changes nothing', () => {
  const measures = unpivot({
    lines: [
      { id: 'l1', word: 'kilos', from: ['kilos'] },
      { id: 'l2', word: 'honey', from: ['honey'] },
    ],
  });
  const of = (definition: Definition) => checkedStep(checkTrail(definition), 'u')?.schema.fields.find((each) => each.name === 'value');
  expect(of(trailOf(measures))).toMatchObject({ role: 'measure', addsUp: 'within one grouping' });
  expect(of(trailOf(unpivot({ lines: measures.lines.slice(0, 1) })))?.addsUp).toBeUndefined();
});

test.each([
  ['no field', { lines: [] }, 'unpivot-empty'],
  ['no value field', { values: [] }, 'unpivot-empty'],
  [
    'texts beside numbers',
    {
      lines: [
        { id: 'l1', word: 'a', from: ['region'] },
        { id: 'l2', word: 'b', from: ['kilos'] },
      ],
    },
    'unpivot-types',
  ],
  ['a field that is gone', { lines: [{ id: 'l1', word: 'a', from: ['gone'] }] }, 'field-gone'],
  [
    'two lines of one word',
    {
      lines: [
        { id: 'l1', word: 'a', from: ['region'] },
        { id: 'l2', word: 'a', from: ['flower'] },
      ],
    },
    'word-twice',
  ],
  ['a name that is taken', { label: { id: 'what', name: 'kilos' } }, 'name-taken'],
  ['a value field of nothing', { lines: [{ id: 'l1', word: 'a', from: [null] }] }, 'field-empty'],
] as const)('%s is told in place and nothing typed is lost', (_words, given, code) => {
  expect(codes(trailOf(unpivot(given as unknown as Partial<UnpivotStep>)))).toContain(code);
});

test('different types become one only where that is taken', () => {
  const lines = [
    { id: 'l1', word: 'a', from: ['region'] },
    { id: 'l2', word: 'b', from: ['kilos'] },
  ];
  const asText = unpivot({ lines, values: [{ id: 'value', name: 'value', as: { kind: 'text' } }] });
  expect(told(trailOf(asText), binding, 'value').slice(0, 2)).toEqual(['Fennick', '10.00']);
});

test('a new one gives its fields free names, and each line is one edit', () => {
  let count = 0;
  const mint = () => `m${count++}`;
  const arriving = checkedStep(checkTrail(trailOf()), 'h') ?? NOTHING_ARRIVES;
  const flower = arriving.schema.fields.find((each) => each.id === 'flower');
  if (!flower) throw new Error('harvests have a flower');
  const taken = { ...flower, id: 'x', name: 'value' };
  const fresh = unpivotStep(mint, 'h', { ...arriving, schema: { fields: [...arriving.schema.fields, taken] } });
  expect([fresh.label.name, fresh.values[0]?.name]).toEqual(['grouping', 'value_2']);
  const line = unpivotLine(mint, fresh, { ...flower, name: 'floral_source' });
  expect(line).toMatchObject({ word: 'floral source', from: ['flower'] });
  const step = unpivot();
  const before = trailOf(step);
  const edit = addItem(step, 'lines', line, 1);
  expect(applyEdits(before, [edit]).steps[1]).toMatchObject({ lines: [{ word: 'region' }, { word: 'floral source' }, { word: 'flower' }] });
  expect(applyEdits(applyEdits(before, [edit]), invertEdits([edit]))).toEqual(before);
});

test('whatever the rows, the values of a word add up to its field, and inputs stand whole on top of one another', () => {
  const amount = fc.option(fc.integer({ min: -999_999, max: 999_999 }), { freq: 4 });
  const cents = (value: number | null): Value => (value === null ? null : { digits: BigInt(value), scale: 2 });
  fc.assert(
    fc.property(fc.array(fc.tuple(amount, amount), { maxLength: 30 }), fc.integer({ min: 2, max: 6 }), (pairs, inputs) => {
      const rows = pairs.map(
        ([kilos, honey], at): ReadonlyMap<string, Value> =>
          new Map([
            ['id', ofWhole(BigInt(at))],
            ['kilos', cents(kilos)],
            ['honey', cents(honey)],
          ]),
      );
      const turned = trailOf(
        unpivot({
          lines: [
            { id: 'l1', word: 'kilos', from: ['kilos'] },
            { id: 'l2', word: 'honey', from: ['honey'] },
          ],
        }),
      );
      const found = evaluateTrail(turned, 'u', binding, () => rows).rows;
      const sum = (of: readonly Value[]) =>
        of.reduce<bigint>((all, each) => all + (typeof each === 'object' && each ? each.digits : 0n), 0n);
      for (const word of ['kilos', 'honey'])
        expect(sum(found.filter((row) => row.get('what') === word).map((row) => row.get('value') ?? null))).toBe(
          sum(rows.map((row) => row.get(word) ?? null)),
        );
      const union: Step = {
        id: 'n',
        kind: 'union',
        name: '',
        off: false,
        inputs: Array.from({ length: inputs }, () => 'h'),
        once: false,
        fields: [{ id: 'f', name: 'kilos', from: Array.from({ length: inputs }, () => 'kilos'), as: null }],
        source: null,
      };
      const stacked = evaluateTrail(trailOf(union), 'n', binding, () => rows).rows.map((row) => row.get('f') ?? null);
      expect(stacked).toEqual(Array.from({ length: inputs }, () => rows.map((row) => row.get('kilos') ?? null)).flat());
    }),
  );
});

describe('the proof of what was turned', () => {
  const fields = (definition: Definition) => reportFields(checkTrail(definition));
  const level = (field: string) => ({ field, descending: false, subtotal: true });
  const names = (given: readonly { readonly field: string }[]) => given.map((each) => each.field);
  const layout = (given: Partial<Layout>): Layout => ({ ...PLAIN_LAYOUT, ...given });

  test('totals no measure over all groupings by itself, and each within its grouping', () => {
    const own: readonly SheetField[] = fields(trailOf(unpivot()));
    expect(names(totalsOf(PLAIN_LAYOUT, own))).toEqual([]);
    expect(names(totalsOf(layout({ levels: [level('what')] }), own))).toEqual(['kilos', 'honey']);
  });

  test('says why a total is missing, and warns of one over everything that was asked for', () => {
    const own = fields(trailOf(unpivot()));
    const asked = (overAll?: true) => layout({ totals: [{ field: 'kilos', aggregate: 'sum', ...(overAll ? { overAll } : {}) }] });
    expect(layoutProblems(asked(), own).map((each) => each.code)).toEqual(['total-without-grouping']);
    expect(fittingLayout(asked(), own).totals).toEqual([]);
    expect(layoutProblems(asked(true), own).map((each) => each.code)).toEqual(['total-counts-twice']);
    expect(fittingLayout(asked(true), own).totals).toHaveLength(1);
  });
});
