import fc from 'fast-check';
import { sweptValues, typedValues } from '../../src';

const values = (typed: string, type: Parameters<typeof sweptValues>[1]) => {
  const read = sweptValues(typed, type);
  return read.ok ? read.values.map(([each]) => each) : read.expected;
};

test.each([
  ['2021, 2022,2025', 'whole number', ['2021', '2022', '2025']],
  ['2021 … 2025', 'whole number', ['2021', '2022', '2023', '2024', '2025']],
  ['2021..2025 by 2', 'whole number', ['2021', '2023', '2025']],
  ['-1 to 1 by 0.5', 'decimal', ['-1.0', '-0.5', '0.0', '0.5', '1.0']],
  ['0.05 … 0.15 by 0.05', 'decimal', ['0.05', '0.10', '0.15']],
  ['2025-01-31 … 2025-05-01 by 1 month', 'date', ['2025-01-31', '2025-02-28', '2025-03-31', '2025-04-30']],
  ['2024-02-27 … 2024-03-01', 'date', ['2024-02-27', '2024-02-28', '2024-02-29', '2024-03-01']],
  ['2025-04-01 until 2025-04-20 by 2 weeks', 'date', ['2025-04-01', '2025-04-15']],
  ['A, B\nC', 'text', ['A', 'B', 'C']],
  ['Upper Tarn', 'text', ['Upper Tarn']],
  ['"Lane End, old", "a ""b""" ; C', 'text', ['Lane End, old', 'a "b"', 'C']],
  ['"5..6"', 'text', ['5..6']],
  ['', 'text', 'at least one value'],
  ['5 … 1', 'whole number', '2021 … 2025 by 1'],
  ['1 … 1000', 'whole number', 'at most 100 values'],
  ['2025-13-01 … 2025-14-01', 'date', '2025-04-01 … 2025-09-01 by 1 month'],
] as const)('%s as values of a %s', (typed, type, found) => {
  expect(values(typed, type)).toEqual(found);
});

test('values written as they would be typed are read as they were', () => {
  const value = fc.string({ unit: fc.constantFrom('a', 'B', ' ', ',', '"', ';', '\n', '.', '…', 'to', '1'), minLength: 1, maxLength: 6 });
  fc.assert(
    fc.property(fc.array(value, { minLength: 1, maxLength: 5 }), (given) => expect(values(typedValues(given), 'text')).toEqual(given)),
    { seed: 16, numRuns: 1_000 },
  );
});
