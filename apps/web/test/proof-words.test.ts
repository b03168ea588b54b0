import type { Field, FieldType, Layout, Role, SheetEntry, SheetField } from '@cendra/core';
import { decimal, fittingLayout, PLAIN_LAYOUT, proofTable, sheetFields, text } from '@cendra/core';
import { fieldWords } from '../src/proof/field-words';
import { rowsDependOn } from '../src/proof/rows-depend-on';
import { fittingWidth } from '../src/proof/widths';
import { definition } from '../../../packages/core/test/support/harvests';

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
const [kilos, , batch] = table.columns;
if (!kilos || !batch) throw new Error('kilos, their average and the batch are shown beside the group');

test('a column is as wide as its longest value, header or total needs, within bounds', () => {
  const width = (extent: string | null, totals: readonly string[] = []) =>
    fittingWidth(kilos.field, extent, kilos.header, kilos.write, totals);
  expect(width('12345678.00')).toBeGreaterThan(width('1.00'));
  expect(width('1.00', ['123 456 789 012.0'])).toBeGreaterThan(width('1.00'));
  expect(fittingWidth(batch.field as SheetField, '2000000', 'Batch', batch.write, [])).toBe(420);
});

test('rows depend on steps, parameters and values, not on how they are read or named', () => {
  const of = (changed: Partial<typeof definition>, values = {}) => rowsDependOn({ ...definition, ...changed }, values);
  const same = of({});
  expect(of({ title: 'Other', sheet, order: ['kilos'], proof: { ...PLAIN_LAYOUT, rows: false } })).toBe(same);
  expect(of({ steps: definition.steps.map((step) => ({ ...step, name: 'named' })) })).toBe(same);
  expect(of({}, { p: ['7'] })).not.toBe(same);
  expect(of({ steps: definition.steps.slice(0, 1) })).not.toBe(same);
});

test('fields of one label are chosen by words that tell them apart', () => {
  const named = (id: string, name: string, label: string) => ({ ...(fields[0] as SheetField), id, name, label });
  const words = fieldWords([
    named('a', 'kilos', 'Kilos'),
    named('b', 'kilos', 'Weight'),
    named('c', 'net', 'Kilos'),
    named('d', 'net', 'Kilos'),
  ]);
  expect(['a', 'b', 'c', 'd', 'e'].map(words.of)).toEqual(['Kilos (kilos)', 'Weight', 'Kilos (net)', 'Kilos (net) 2', '']);
  expect([words.field('Kilos (net) 2')?.id, words.field('Kilos')]).toEqual(['d', undefined]);
});
