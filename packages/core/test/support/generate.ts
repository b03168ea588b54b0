import fc from 'fast-check';
import type { Field, FieldType, Schema } from '../../src';
import { checkExpression, datetime, date, decimal, float, openDecimal, text, whole, yesno } from '../../src';
import type { Expression } from '../../src';

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

const oddText = fc.oneof(
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
const leapDay = fc.constantFrom('2024-02-29', '2000-02-29', '2025-12-31', '2025-01-01');
const days = fc.oneof(someDate, leapDay);
const times = fc.constantFrom('00:00:00', '23:59:59.999999', '12:30:00', '06:00:00.5');

/** Wire text of a value of each field. Small numbers often, so that equal ones and zero divisors meet. */
const VALUES: Readonly<Record<string, fc.Arbitrary<string>>> = {
  w1: fc.oneof(fc.integer({ min: -3, max: 3 }).map(String), fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }).map(String)),
  w2: fc.integer({ min: -2, max: 2 }).map(String),
  d2: fc.oneof(fc.constantFrom('0.00', '1.00', '-1.00', '2.50', '0.01'), scaled(8, 2)),
  d6: fc.oneof(fc.constantFrom('0.000000', '3.000000'), scaled(20, 6)),
  d10: fc.oneof(fc.constantFrom('0.0000000000', '7.0000000000'), scaled(38, 10)),
  open: fc.oneof(fc.constantFrom('0', '1.5', '0.1', '1.10', '-3', '0.0000000000005'), scaled(20, 3)),
  f1: fc.oneof(
    fc.constantFrom('0', '1', '-0.5', '1e308', '-1e308', '5e-324', '1e-200', 'NaN', 'Infinity'),
    fc.double({ noNaN: true, noDefaultInfinity: true }).map(String),
  ),
  t1: oddText,
  t2: oddText,
  b1: fc.constantFrom('true', 'false'),
  day1: days,
  at1: fc.tuple(days, times).map(([day, time]) => `${day} ${time}`),
};

/** A row: wire text or null by field. */
export type WireRow = Readonly<Record<string, string | null>>;
export const wireRow: fc.Arbitrary<WireRow> = fc.record(
  Object.fromEntries(Object.entries(VALUES).map(([name, value]) => [name, fc.option(value, { freq: 4 })])),
);

const numberLeaf = fc.oneof(
  fc.constantFrom('w1', 'w2', 'd2', 'd6', 'd10', 'open', '0', '1', '2.5', '3', '0.000001', '12345678901234567890.5'),
  fc.constantFrom('w2', 'd2', 'd6'),
);
const quoted = oddText.map((each) => `'${each.replaceAll("'", "''")}'`);
const textLeaf = fc.oneof(fc.constantFrom('t1', 't2'), quoted);
const dayLeaf = fc.oneof(
  fc.constantFrom('day1', 'at1'),
  days.map((each) => `date '${each}'`),
);
const comparison = fc.constantFrom('=', '<>', '<', '<=', '>', '>=');
const negation = fc.constantFrom('', 'not ');

const { number, condition } = fc.letrec<{ number: string; exact: string; floating: string; condition: string; atom: string }>((tie) => ({
  exact: fc.oneof(
    { maxDepth: 4, withCrossShrink: true },
    numberLeaf,
    fc.tuple(tie('exact'), fc.constantFrom('+', '-', '*', '/'), tie('exact')).map(([a, sign, b]) => `(${a} ${sign} ${b})`),
    tie('exact').map((of) => `(- ${of})`),
  ),
  floating: fc.oneof(
    { maxDepth: 2 },
    fc.constantFrom('f1', '1e0', '2e300', '1e-300'),
    fc
      .tuple(tie('floating'), fc.constantFrom('+', '-', '*', '/'), fc.oneof(tie('floating'), fc.constantFrom('w1', 'd2')))
      .map(([a, sign, b]) => `(${a} ${sign} ${b})`),
  ),
  number: fc.oneof({ weight: 4, arbitrary: tie('exact') }, { weight: 1, arbitrary: tie('floating') }),
  atom: fc.oneof(
    fc.tuple(tie('exact'), comparison, tie('exact')).map((parts) => parts.join(' ')),
    fc.tuple(textLeaf, comparison, textLeaf).map((parts) => parts.join(' ')),
    fc.tuple(dayLeaf, comparison, dayLeaf).map((parts) => parts.join(' ')),
    fc.tuple(tie('exact'), negation, tie('exact'), tie('exact')).map(([of, not, low, high]) => `${of} ${not}between ${low} and ${high}`),
    fc
      .tuple(textLeaf, negation, fc.array(textLeaf, { minLength: 1, maxLength: 3 }))
      .map(([of, not, items]) => `${of} ${not}in (${items.join(', ')})`),
    fc
      .tuple(fc.constantFrom('w1', 'w2'), negation, fc.array(fc.constantFrom('1', '-2', 'w2', 'null'), { minLength: 1, maxLength: 3 }))
      .map(([of, not, items]) => `${of} ${not}in (${items.join(', ')})`),
    fc
      .tuple(textLeaf, negation, fc.oneof(quoted, fc.constantFrom("'%'", "'_'", "'%a%'", "'_%'", 't2')))
      .map(([of, not, pattern]) => `${of} ${not}like ${pattern}`),
    fc.tuple(textLeaf, fc.constantFrom("'!%%'", "'a!_%'", "'%!!'")).map(([of, pattern]) => `${of} like ${pattern} escape '!'`),
    fc.tuple(fc.oneof(textLeaf, dayLeaf, tie('exact')), negation).map(([of, not]) => `${of} is ${not}null`),
    fc.constantFrom('b1', 'true', 'null'),
  ),
  condition: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    tie('atom'),
    fc.tuple(tie('condition'), fc.constantFrom('and', 'or'), tie('condition')).map(([a, word, b]) => `(${a} ${word} ${b})`),
    tie('condition').map((of) => `not (${of})`),
  ),
}));

export interface Generated {
  readonly source: string;
  readonly expression: Expression;
}

/** Texts that check; what the generator writes is nearly always right, and the rest is left out. */
const checked = (made: fc.Arbitrary<string>): fc.Arbitrary<Generated> =>
  made
    .map((source) => ({ source, expression: checkExpression(source, { schema, parameters: [] }).expression }))
    .filter((each): each is Generated => each.expression !== undefined);

export const numberExpression = checked(number);
export const conditionExpression = checked(condition);
