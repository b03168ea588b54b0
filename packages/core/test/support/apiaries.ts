import type { Definition, FieldType, Step, TableStep, UnpivotStep, Value } from '../../src';
import { date, decimal, emptyDefinition, evaluateTrail, ofWhole, parseDecimal, readValue, text, whole, writeValue } from '../../src';
import type { Binding } from '../../src';

/** A handful of harvests, written by hand, for what is turned, summed up and arranged. */

const COLUMNS = {
  id: [whole, 'key'],
  region: [text, 'attribute'],
  flower: [text, 'attribute'],
  picked: [date, 'date'],
  kilos: [decimal(8, 2), 'measure'],
  honey: [decimal(8, 2), 'measure'],
} as const satisfies Readonly<Record<string, readonly [FieldType, 'key' | 'attribute' | 'date' | 'measure']>>;

export const harvests: TableStep = {
  id: 'h',
  kind: 'table',
  name: '',
  off: false,
  inputs: [],
  source: 's',
  schema: 'coop',
  table: 'harvests',
  called: { row: 'harvest', rows: 'harvests' },
  taken: Object.keys(COLUMNS),
  keys: [['id']],
  fields: Object.entries(COLUMNS).map(([column, [type, role]]) => ({ id: column, column, sourceType: 'x', type, role, looseText: false })),
};

/** The harvests turned: each stands in its region and in its floral source. */
export const unpivot = (given: Partial<UnpivotStep> = {}): UnpivotStep => ({
  id: 'u',
  kind: 'unpivot',
  name: '',
  off: false,
  inputs: ['h'],
  label: { id: 'what', name: 'grouping' },
  values: [{ id: 'value', name: 'value', as: null }],
  lines: [
    { id: 'l1', word: 'region', from: ['region'] },
    { id: 'l2', word: 'flower', from: ['flower'] },
  ],
  nulls: true,
  ...given,
});
const ROWS: readonly (readonly [number, string | null, string | null, string, string | null, string | null])[] = [
  [1, 'Fennick', 'lime', '2025-04-03', '10.00', '8.00'],
  [2, 'Fennick', 'heather', '2025-04-30', '5.50', null],
  [3, 'Orrin Vale', 'lime', '2025-06-01', '20.00', '19.00'],
  [4, 'Orrin Vale', null, '2025-06-15', '5.50', '5.00'],
  [5, null, 'rape', '2025-06-20', null, null],
];

function dayOf(written: string): Value {
  const read = readValue(date, written);
  if (!read.ok) throw new RangeError(`${written} is no day`);
  return read.value;
}

/** The rows by column, as the evaluator takes them. */
export const rows: readonly ReadonlyMap<string, Value>[] = ROWS.map(
  ([id, region, flower, picked, kilos, honey]) =>
    new Map<string, Value>([
      ['id', ofWhole(BigInt(id))],
      ['region', region],
      ['flower', flower],
      ['picked', dayOf(picked)],
      ['kilos', kilos === null ? null : (parseDecimal(kilos) ?? null)],
      ['honey', honey === null ? null : (parseDecimal(honey) ?? null)],
    ]),
);

export const trailOf = (...steps: readonly Step[]): Definition => ({
  ...emptyDefinition('Harvests'),
  steps: [harvests, ...steps],
  result: steps.at(-1)?.id ?? 'h',
});

/** The rows after the last step, as texts of the named fields. */
export function told(given: Definition, binding: Binding, ...names: readonly string[]): readonly string[] {
  const { schema, rows: found } = evaluateTrail(given, given.result ?? '', binding, () => rows);
  const fields = names.map((name) => schema.fields.find((each) => each.name === name));
  return found.map((row) => fields.map((each) => textOf(each ? (row.get(each.id) ?? null) : null, each?.type)).join(' '));
}

function textOf(value: Value, type: FieldType | undefined): string {
  return value === null || !type ? 'null' : writeValue(type, value);
}
