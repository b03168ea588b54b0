import fc from 'fast-check';
import type { Field, FieldType, Schema } from '../../src';
import { datetime, date, decimal, float, instant, openDecimal, readIn, text, time, whole, yesno } from '../../src';

/** A field of each type, named by it, so that generated texts stay readable in a failure. */
const TYPES: Readonly<Record<string, FieldType>> = {
  w1: whole,
  w2: whole,
  d2: decimal(8, 2),
  d6: decimal(20, 6),
  d10: decimal(38, 10),
  open: openDecimal,
  f1: float,
  t1: text,
  t2: text,
  b1: yesno,
  day1: date,
  at1: datetime,
  time1: time,
  z1: readIn('Europe/Vienna', instant),
};

export const schema: Schema = {
  fields: Object.entries(TYPES).map(([name, type]): Field => ({
    id: name,
    name,
    type,
    role: 'attribute',
    origin: { step: 's', column: name },
    forUseOnly: false,
  })),
};

/** The same fields and a key, by which rows can be told apart. */
export const keyed: Schema = {
  fields: [{ id: 'n', name: 'n', type: whole, role: 'key', origin: { step: 's', column: 'n' }, forUseOnly: false }, ...schema.fields],
};

const digits = (most: number) => fc.bigInt({ min: 0n, max: 10n ** BigInt(most) - 1n }).map(String);
const signed = (made: fc.Arbitrary<string>) =>
  fc.tuple(fc.boolean(), made).map(([minus, value]) => (minus && !/^[0.]+$/.test(value) ? `-${value}` : value));
const scaled = (precision: number, scale: number) =>
  signed(
    fc
      .integer({ min: 1, max: precision })
      .chain(digits)
      .map((plain) => {
        const padded = plain.padStart(scale + 1, '0');
        return `${padded.slice(0, -scale)}.${padded.slice(-scale)}`;
      }),
  );

export const oddText = fc.oneof(
  fc.constantFrom(
    '',
    ' ',
    'a',
    'A',
    'ä',
    'ß',
    'ẞ',
    'İ',
    'x ',
    ' x',
    '%',
    '_',
    '\\',
    "O'Sedge",
    '"q"',
    'a\nb',
    '\t',
    '😀',
    '\uffff',
    'é',
    'e\u0301',
    'null',
    '10',
    '9',
    ' 12.50 ',
    '-0.005',
    '1e3',
    '2024-02-29',
    '2023-02-29',
    ' 2025-4-1 23:59:59.5',
    '31.12.2025',
    'yes',
    'No',
    '1.234,50',
    'ŉǅﬁ',
    '\uFEFF',
    '\uFEFFab',
    '\u0001\u007F',
    '\u00A0\u2003 x\u3000',
    '𝕏😀',
  ),
  fc.string({ unit: 'grapheme', maxLength: 6 }).filter((each) => !each.includes('\u0000')),
);

const someDate = fc
  .record({
    year: fc.constantFrom(1, 1600, 1900, 1999, 2000, 2023, 2024, 2025, 9999),
    month: fc.integer({ min: 1, max: 12 }),
    day: fc.integer({ min: 1, max: 28 }),
  })
  .map(({ year, month, day }) => `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`);
const leapDay = fc.constantFrom('2024-02-29', '2000-02-29', '2025-12-31', '2025-01-01', '0001-01-01', '9999-12-31');
export const days = fc.oneof(someDate, leapDay);
const times = fc.constantFrom('00:00:00', '23:59:59.999999', '12:30:00', '06:00:00.5');

const THIRTY = `1${'0'.repeat(30)}`;

/** Wire text of a value of each field. Small numbers often, so that equal ones and zero divisors meet. */
const VALUES: Readonly<Record<string, fc.Arbitrary<string>>> = {
  w1: fc.oneof(
    fc.integer({ min: -3, max: 3 }).map(String),
    fc.constantFrom('9223372036854775807', '-9223372036854775808'),
    fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }).map(String),
  ),
  w2: fc.integer({ min: -2, max: 2 }).map(String),
  d2: fc.oneof(fc.constantFrom('0.00', '1.00', '-1.00', '2.50', '0.01', '999999.99', '-999999.99'), scaled(8, 2)),
  d6: fc.oneof(fc.constantFrom('0.000000', '3.000000'), scaled(20, 6)),
  d10: fc.oneof(fc.constantFrom('0.0000000000', '7.0000000000'), scaled(38, 10)),
  open: fc.oneof(
    fc.constantFrom(
      '0',
      '1',
      '1.0',
      '1.00',
      '1.5',
      '0.1',
      '1.10',
      '-3',
      '0.0000000000005',
      THIRTY,
      `-${THIRTY}`,
      `1${'0'.repeat(60)}.5`,
      `0.${'0'.repeat(39)}1`,
    ),
    scaled(20, 3),
  ),
  f1: fc.oneof(
    fc.constantFrom('0', '-0', '1', '-0.5', '1e308', '1.7976931348623157e308', '-1e308', '5e-324', '1e-200', 'NaN', 'Infinity'),
    fc.double({ noNaN: true, noDefaultInfinity: true }).map(String),
  ),
  t1: oddText,
  t2: oddText,
  b1: fc.constantFrom('true', 'false'),
  day1: days,
  at1: fc.tuple(days, times).map(([day, time]) => `${day} ${time}`),
  time1: times,
  // Around the hours that the zone skips or repeats.
  z1: fc.oneof(
    fc.constantFrom('2024-03-31 00:59:59.999999+00', '2024-03-31 01:00:00+00', '2025-10-26 00:30:00+00', '2024-03-10 07:00:00+00'),
    fc.tuple(days, times).map(([day, time]) => `${day} ${time}+00`),
  ),
};

/** What a source may keep that fits no type of ours, by field. */
export const MISFITS: Readonly<Record<string, readonly string[]>> = {
  d2: ['NaN'],
  d6: ['NaN'],
  d10: ['NaN'],
  open: ['NaN', 'Infinity', '-Infinity'],
  day1: ['infinity', '-infinity', '0044-03-15 BC', '12345-01-01'],
  at1: ['infinity', '-infinity', '0044-03-15 12:00:00 BC', '12345-01-01 00:00:00'],
  z1: ['infinity', '-infinity', '0044-03-15 12:00:00+00 BC', '12345-01-01 00:00:00+00'],
};

/** A row: wire text or null by field. */
export type WireRow = Readonly<Record<string, string | null>>;
export const wireRow: fc.Arbitrary<WireRow> = fc.record(
  Object.fromEntries(
    Object.entries(VALUES).map(([name, value]) => {
      const misfits = MISFITS[name] ?? [];
      const kept = misfits.length > 0 ? fc.oneof({ weight: 12, arbitrary: value }, fc.constantFrom(...misfits)) : value;
      return [name, fc.option(kept, { freq: 4 })];
    }),
  ),
);
/** A row as Cendra keeps it. */
export const keptRow = (wire: WireRow): WireRow => Object.fromEntries(Object.entries(wire).map(([id, text]) => [id, keptOf(id, text)]));

/** The text of a value as Cendra keeps it: what fits no type is null. */
export const keptOf = (field: string, wire: string | null): string | null => (isMisfit(field, wire) ? null : wire);

export const isMisfit = (field: string, wire: string | null): boolean => wire !== null && MISFITS[field]?.includes(wire) === true;
