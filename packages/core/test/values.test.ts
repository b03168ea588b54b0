import fc from 'fast-check';
import type { FieldType } from '../src';
import {
  beginning,
  charLength,
  civilFromDays,
  compareDecimals,
  compareText,
  compareValues,
  date,
  datetime,
  daysFromCivil,
  daysInMonth,
  decimal,
  divideDecimals,
  float,
  floatText,
  formatDate,
  formatDatetime,
  formatDecimal,
  instant,
  parseDate,
  parseDatetime,
  parseDecimal,
  readValue,
  rescale,
  substring,
  time,
  whole,
  writeValue,
  yesno,
} from '../src';

const someDecimal = fc
  .tuple(fc.bigInt({ min: -(10n ** 40n), max: 10n ** 40n }), fc.integer({ min: 0, max: 20 }))
  .map(([digits, scale]) => ({ digits, scale }));

describe('decimals', () => {
  test.each([
    ['1e3', '1000'],
    ['1.50', '1.50'],
    ['-.5', '-0.5'],
    ['0001', '1'],
    ['1e-3', '0.001'],
    ['12.e1', '120'],
  ])('%s is read as %s', (source, expected) => {
    const value = parseDecimal(source);
    expect(value && formatDecimal(value)).toBe(expected);
  });

  test.each(['', '.', 'NaN', 'Infinity', '1,5', '1 2', '0x10', '1e', '--1', '1e99999'])('%j is no number', (source) =>
    expect(parseDecimal(source)).toBeUndefined(),
  );

  test('written and read again they are the same', () => {
    fc.assert(fc.property(someDecimal, (value) => expect(parseDecimal(formatDecimal(value))).toEqual(value)));
  });

  test.each([
    ['2.5', 0, '3'],
    ['-2.5', 0, '-3'],
    ['2.4999999', 0, '2'],
    ['0.005', 2, '0.01'],
    ['-0.004', 2, '0.00'],
    ['7', 3, '7.000'],
  ])('%s at scale %i is %s: half goes away from zero', (source, scale, expected) => {
    expect(formatDecimal(rescale(parseDecimal(source) ?? { digits: 0n, scale: 0 }, scale))).toBe(expected);
  });

  test('a quotient is off by at most half a unit of its last place', () => {
    fc.assert(
      fc.property(someDecimal, someDecimal, fc.integer({ min: 0, max: 12 }), (a, b, scale) => {
        const quotient = divideDecimals(a, b, scale);
        if (b.digits === 0n) return expect(quotient).toBeUndefined();
        if (!quotient) throw new Error('only zero has no quotient');
        // |quotient × b − a| ≤ |b| ÷ (2 × 10^scale), all in integers of one scale.
        const common = 10n ** BigInt(a.scale + b.scale + scale);
        const size = (n: bigint) => (n < 0n ? -n : n);
        const product = quotient.digits * b.digits * (common / 10n ** BigInt(scale + b.scale));
        const dividend = a.digits * (common / 10n ** BigInt(a.scale));
        return expect(2n * size(product - dividend) * 10n ** BigInt(scale) <= size(b.digits) * (common / 10n ** BigInt(b.scale))).toBe(
          true,
        );
      }),
    );
  });

  test('comparing does not depend on how many zeros are written', () => {
    fc.assert(
      fc.property(someDecimal, someDecimal, fc.integer({ min: 0, max: 10 }), (a, b, more) => {
        expect(Math.sign(compareDecimals(a, b))).toBe(Math.sign(compareDecimals(rescale(a, a.scale + more), b)));
        expect(compareDecimals(a, b)).toBe(-compareDecimals(b, a) + 0);
      }),
    );
  });
});

describe('the calendar', () => {
  test('agrees with the engine’s own for a million days around today and far away', () => {
    fc.assert(
      fc.property(fc.integer({ min: -700_000, max: 2_900_000 }), (days) => {
        const own = new Date(days * 86_400_000);
        expect(civilFromDays(days)).toEqual({ year: own.getUTCFullYear(), month: own.getUTCMonth() + 1, day: own.getUTCDate() });
        expect(daysFromCivil(civilFromDays(days))).toBe(days);
      }),
      { numRuns: 2_000 },
    );
  });

  test.each([
    [2024, 29],
    [2025, 28],
    [2000, 29],
    [1900, 28],
  ])('February %i has %i days', (year, days) => expect(daysInMonth(year, 2)).toBe(days));

  test.each(['2025-02-29', '2025-13-01', '2025-00-10', '2025-04-31', '25-04-01', '2025/04/01', '0000-01-01', 'today', ''])(
    '%j is no date',
    (source) => expect(parseDate(source)).toBeUndefined(),
  );

  test('date-times keep their microseconds, also before 1970', () => {
    for (const source of ['1969-12-31 23:59:59.999999', '2024-02-29 00:00:00', '0001-01-01 12:30:00.5']) {
      const value = parseDatetime(source);
      expect(value !== undefined && formatDatetime(value)).toBe(source);
    }
  });

  test('an instant with an offset is the same moment in UTC', () => {
    const read = readValue(instant, '2024-03-31 02:30:00+01:30');
    expect(read.ok && read.value !== null && writeValue(instant, read.value)).toBe('2024-03-31 01:00:00+00');
  });
});

describe('wire text', () => {
  const examples: readonly (readonly [FieldType, readonly string[], readonly string[]])[] = [
    [whole, ['0', '-9223372036854775808', '9223372036854775807'], ['9223372036854775808', '1.5', 'x', '']],
    [decimal(5, 2), ['999.99', '-0.01'], ['1000', '0.001', '1,0']],
    [float, ['0.1', '1e+300', 'NaN', '-Infinity'], ['abc', '1.2.3']],
    [yesno, ['true', 'false'], ['maybe', '2']],
    [date, ['2024-02-29', '9999-12-31'], ['2023-02-29', '1 May']],
    [time, ['00:00:00', '23:59:59.999999'], ['24:00', '12:60', 'noon']],
    [datetime, ['2024-02-29 12:00:00'], ['2024-02-29 25:00', '2024-02-29 12:00 13:00']],
  ];
  test.each(examples)('of %j is read and written without loss, and refused when it is none', (type, good, bad) => {
    for (const source of good) {
      const read = readValue(type, source);
      expect(read.ok && read.value !== null && writeValue(type, read.value)).toBe(source);
    }
    for (const source of bad) expect(readValue(type, source)).toMatchObject({ ok: false, expected: expect.any(String) as string });
  });

  test('yes and no are understood in words', () => {
    for (const [source, value] of [
      ['yes', true],
      ['Y', true],
      ['No', false],
      ['0', false],
    ] as const)
      expect(readValue(yesno, source)).toEqual({ ok: true, value });
  });
});

describe('order', () => {
  test('of text is by code point, which UTF-16 is not', () => {
    const points = (source: string) => [...source].map((each) => each.codePointAt(0) ?? 0);
    const byPoint = (a: readonly number[], b: readonly number[]): number => {
      for (let at = 0; at < Math.min(a.length, b.length); at++) if (a[at] !== b[at]) return (a[at] ?? 0) - (b[at] ?? 0);
      return a.length - b.length;
    };
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.string({ unit: 'binary' }), (a, b) =>
        expect(Math.sign(compareText(a, b))).toBe(Math.sign(byPoint(points(a), points(b)))),
      ),
    );
    expect(compareText('\uffff', '😀')).toBeLessThan(0);
  });

  test('of floating numbers puts NaN last and equal to itself', () => {
    expect(compareValues(float, Number.NaN, Infinity)).toBeGreaterThan(0);
    expect(compareValues(float, Number.NaN, Number.NaN)).toBe(0);
    expect(compareValues(float, 0, -0)).toBe(0);
  });

  test('of days is that of their text', () => {
    fc.assert(
      fc.property(fc.integer({ min: -700_000, max: 2_900_000 }), fc.integer({ min: -700_000, max: 2_900_000 }), (a, b) =>
        expect(Math.sign(compareValues(date, a, b))).toBe(Math.sign(compareText(formatDate(a), formatDate(b)))),
      ),
    );
  });
});

test.each([
  ['lime honey', 4, 'lime'],
  ['a🐝', 2, 'a'],
  ['a🐝', 3, 'a🐝'],
  ['ae\u0301', 2, 'a'],
  ['👩‍🌾 and bees', 3, ''],
  ['', 0, ''],
])('the beginning of %j in %d units is whole characters', (text, most, expected) => {
  expect(beginning(text, most)).toBe(expected);
});

test('a floating number is written with the shortest digits that mean it, by an exponent where it is very small or large', () => {
  const written = [0.1, -0.0001, 0.00009999, 123456789012345, 999999999999999.9, 1e15, -2.5e-7, 5e-324, 1.7976931348623157e308, -0];
  expect(written.map(floatText)).toEqual([
    '0.1',
    '-0.0001',
    '9.999e-05',
    '123456789012345',
    '999999999999999.9',
    '1e+15',
    '-2.5e-07',
    '5e-324',
    '1.7976931348623157e+308',
    '0',
  ]);
  fc.assert(
    fc.property(fc.double({ noNaN: true, noDefaultInfinity: true }), (value) => {
      expect(Object.is(Number(floatText(value)), value + 0)).toBe(true);
    }),
    { numRuns: 2_000, seed: 5 },
  );
});

test('code points are counted and cut, also where some are two units', () => {
  fc.assert(
    fc.property(
      fc.string({ unit: fc.constantFrom('a', 'ä', '🐝', '\uD83D', '中') }),
      fc.bigInt(-3n, 9n),
      fc.bigInt(0n, 9n),
      (text, from, length) => {
        const points = [...text];
        expect(charLength(text)).toBe(points.length);
        const begin = from < 1n ? 0 : Number(from) - 1;
        const end = Math.max(begin, Number(from + length) - 1);
        expect(substring(text, from, length)).toBe(points.slice(begin, end).join(''));
      },
    ),
    { numRuns: 1_000, seed: 6 },
  );
});
