import fc from 'fast-check';
import type { Field, FieldType, Schema } from '../../src';
import { checkExpression, datetime, date, decimal, float, instant, openDecimal, readIn, text, time, whole, yesno } from '../../src';
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
const days = fc.oneof(someDate, leapDay);
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

const numberLeaf = fc.oneof(
  fc.constantFrom('w1', 'w2', 'd2', 'd6', 'd10', 'open', '0', '1', '2.5', '3', '0.000001', '12345678901234567890.5'),
  fc.constantFrom('w2', 'd2', 'd6'),
);
const quoted = oddText.map((each) => `'${each.replaceAll("'", "''")}'`);
const textLeaf = fc.oneof(fc.constantFrom('t1', 't2'), quoted);
const dayLeaf = fc.oneof(
  fc.constantFrom('day1', 'at1', 'z1'),
  days.map((each) => `date '${each}'`),
);
const comparison = fc.constantFrom('=', '<>', '<', '<=', '>', '>=');
const negation = fc.constantFrom('', 'not ');

type Kind = 'number' | 'exact' | 'whole' | 'binary' | 'floating' | 'textual' | 'day' | 'condition' | 'atom';
const some = fc.tuple;
const places = fc.constantFrom('-2', '-1', '0', '1', '2', '5');
const digitsType = fc.constantFrom('decimal(12,2)', 'decimal(38,10)', 'decimal(5,0)', 'integer', 'numeric(20,8)');
const numberPatterns = fc.constantFrom(
  "'#,##0.00'",
  "'0'",
  "'000.0##'",
  "'#.##'",
  "'#,##0.00 ''kg'';(#,##0.00)'",
  "'0%'",
  "'#,##0.00', ',.'",
  "'#,##,##0', '.’'",
);
const dayPatterns = fc.constantFrom(
  "'yyyy-MM-dd'",
  "'d.M.yy'",
  "'EEE, d MMMM yyyy'",
  "'QQQ y'",
  "'MMM d'",
  "'EEEE'",
  "'''week of'' dd/MM/y'",
);
const readPatterns = fc.constantFrom("'yyyy-MM-dd'", "'dd.MM.yyyy'", "'d.M.y'", "'MMM d, yyyy'", "'yyyyMMdd'");
const unit = fc.constantFrom('day', 'month', 'week', 'year', 'quarter', 'hour', 'minute', 'second');
const period = fc.constantFrom('day', 'week', 'month', 'quarter', 'year');
const dayPart = fc.constantFrom('year', 'quarter', 'month', 'week', 'day', 'weekday', 'yearday');

const made = fc.letrec<Record<Kind, string>>((tie) => {
  const [exact, whole, binary, floating] = [tie('exact'), tie('whole'), tie('binary'), tie('floating')];
  const [textual, day, condition] = [tie('textual'), tie('day'), tie('condition')];
  const either = (of: fc.Arbitrary<string>) =>
    fc.oneof(
      some(condition, of, of).map(([when, a, b]) => `case when ${when} then ${a} else ${b} end`),
      some(of, of).map(([a, b]) => `coalesce(${a}, ${b})`),
      some(of, of).map(([a, b]) => `nullif(${a}, ${b})`),
      some(fc.constantFrom('greatest', 'least'), of, of).map(([name, a, b]) => `${name}(${a}, ${b})`),
      some(of, of, of, of).map(([key, a, b, c]) => `case ${key} when ${a} then ${b} when ${c} then ${a} end`),
    );
  const calculation = some(exact, fc.constantFrom('+', '-', '*', '/'), exact).map(([a, sign, b]) => `(${a} ${sign} ${b})`);
  return {
    exact: fc.oneof(
      { maxDepth: 4, withCrossShrink: true },
      numberLeaf,
      { weight: 3, arbitrary: calculation },
      exact.map((of) => `(- ${of})`),
      some(fc.constantFrom('abs', 'floor', 'ceiling'), exact).map(([name, of]) => `${name}(${of})`),
      some(exact, exact).map(([a, b]) => `mod(${a}, ${b})`),
      some(exact, places).map(([of, to]) => `round(${of}, ${to})`),
      some(fc.oneof(exact, textual, binary), digitsType).map(([of, type]) => `cast(${of} as ${type})`),
      some(textual, numberPatterns).map(([of, pattern]) => `parse_number(${of}, ${pattern})`),
      either(exact),
      whole,
    ),
    whole: fc.oneof(
      { maxDepth: 2 },
      fc.constantFrom('w1', 'w2', '0', '1', '3'),
      textual.map((of) => `char_length(${of})`),
      some(textual, textual).map(([a, b]) => `position(${a} in ${b})`),
      some(dayPart, day).map(([part, of]) => `extract(${part} from ${of})`),
      fc.tuple(fc.constantFrom('hour', 'minute'), fc.constantFrom('at1', 'time1', 'z1')).map(([part, of]) => `extract(${part} from ${of})`),
      some(day, day).map(([a, b]) => `(${a} - ${b})`),
      some(fc.constantFrom('days_between', 'months_between'), day, day).map(([name, a, b]) => `${name}(${a}, ${b})`),
      exact.map((of) => `cast(${of} as integer)`),
    ),
    // What every engine computes to the same last bit, so that its digits can be looked at.
    binary: fc.oneof(
      { maxDepth: 2 },
      fc.constantFrom('f1', '1e0', '2e300', '1e15', '-0.00001e0', '123456789012345680e0'),
      some(binary, fc.constantFrom('+', '-', '*', '/'), fc.oneof(binary, fc.constantFrom('w1', 'd2'))).map(
        ([a, sign, b]) => `(${a} ${sign} ${b})`,
      ),
    ),
    floating: fc.oneof(
      { maxDepth: 2 },
      binary,
      some(floating, fc.constantFrom('+', '-', '*', '/'), fc.oneof(floating, fc.constantFrom('w1', 'd2'))).map(
        ([a, sign, b]) => `(${a} ${sign} ${b})`,
      ),
      some(fc.constantFrom('abs', 'floor', 'ceiling', 'round', 'sqrt'), floating).map(([name, of]) => `${name}(${of})`),
      some(fc.oneof(floating, fc.constantFrom('d2', 'w2')), fc.constantFrom('2', '0.5', '-1', 'w2', 'f1', 'd2')).map(
        ([a, b]) => `power(${a}, ${b})`,
      ),
      fc.oneof(textual, fc.constantFrom('w1', 'd6', "'-12.5e-3'", "'1e999'", "'1e-999'")).map((of) => `cast(${of} as double precision)`),
    ),
    textual: fc.oneof(
      { maxDepth: 3, withCrossShrink: true },
      textLeaf,
      some(fc.constantFrom('upper', 'lower', 'trim'), textual).map(([name, of]) => `${name}(${of})`),
      some(fc.constantFrom("leading ' '", "trailing '0'", "both 'ä'", "'😀'"), textual).map(([side, of]) => `trim(${side} from ${of})`),
      some(textual, whole, whole).map(([of, from, length]) => `substring(${of} from ${from} for ${length})`),
      some(textual, whole).map(([of, from]) => `substring(${of} from ${from})`),
      some(textual, textual, fc.constantFrom('1', '2', 'w2')).map(([of, by, from]) => `overlay(${of} placing ${by} from ${from})`),
      some(textual, textual, textual).map((of) => `replace(${of.join(', ')})`),
      some(textual, textual).map(([a, b]) => `(${a} || ${b})`),
      some(textual, textual, textual).map((of) => `join_text(${of.join(', ')})`),
      fc.oneof(exact, binary, day, fc.constantFrom('b1', 'time1', 'z1')).map((of) => `cast(${of} as text)`),
      some(exact, numberPatterns).map(([of, pattern]) => `format_number(${of}, ${pattern})`),
      some(day, dayPatterns).map(([of, pattern]) => `format_date(${of}, ${pattern})`),
      fc
        .constantFrom("'HH:mm:ss.SSS'", "'h:mm a'", "'H:m:s'")
        .chain((pattern) => fc.constantFrom('at1', 'time1', 'z1').map((of) => `format_date(${of}, ${pattern})`)),
      either(textual),
    ),
    day: fc.oneof(
      { maxDepth: 3, withCrossShrink: true },
      dayLeaf,
      some(day, fc.constantFrom('+', '-'), fc.constantFrom('1', '3', '13', '400', '9000'), unit).map(
        ([of, sign, n, by]) => `(${of} ${sign} interval '${n}' ${by})`,
      ),
      some(day, whole, unit).map(([of, n, by]) => `(${of} + ${n} * interval '1' ${by})`),
      some(fc.constantFrom('start', 'end'), period, day).map(([end, length, of]) => `${end}_of_${length}(${of})`),
      some(whole, fc.constantFrom('1', '2', '12', 'w2'), fc.constantFrom('29', '31', 'w1')).map((of) => `date_of(${of.join(', ')})`),
      some(textual, fc.constantFrom('date', 'timestamp')).map(([of, type]) => `cast(${of} as ${type})`),
      some(textual, readPatterns).map(([of, pattern]) => `parse_date(${of}, ${pattern})`),
      textual.map((of) => `parse_datetime(${of}, 'yyyy-MM-dd HH:mm')`),
      fc.constantFrom(
        'current_date',
        'localtimestamp',
        'cast(at1 as date)',
        'cast(day1 as timestamp)',
        'cast(z1 as date)',
        'cast(z1 as timestamp)',
      ),
      either(day),
    ),
    number: fc.oneof({ weight: 4, arbitrary: exact }, { weight: 1, arbitrary: floating }),
    atom: fc.oneof(
      some(exact, comparison, exact).map((parts) => parts.join(' ')),
      some(textual, comparison, textual).map((parts) => parts.join(' ')),
      some(day, comparison, day).map((parts) => parts.join(' ')),
      some(exact, negation, exact, exact).map(([of, not, low, high]) => `${of} ${not}between ${low} and ${high}`),
      some(textLeaf, negation, fc.array(textLeaf, { minLength: 1, maxLength: 3 })).map(
        ([of, not, items]) => `${of} ${not}in (${items.join(', ')})`,
      ),
      some(fc.constantFrom('w1', 'w2'), negation, fc.array(fc.constantFrom('1', '-2', 'w2', 'null'), { minLength: 1, maxLength: 3 })).map(
        ([of, not, items]) => `${of} ${not}in (${items.join(', ')})`,
      ),
      some(textLeaf, negation, fc.oneof(quoted, fc.constantFrom("'%'", "'_'", "'%a%'", "'_%'", 't2'))).map(
        ([of, not, pattern]) => `${of} ${not}like ${pattern}`,
      ),
      some(textLeaf, fc.constantFrom("'!%%'", "'a!_%'", "'%!!'")).map(([of, pattern]) => `${of} like ${pattern} escape '!'`),
      some(fc.oneof(textual, day, exact), negation).map(([of, not]) => `${of} is ${not}null`),
      some(textual, negation, textual).map(([a, not, b]) => `${a} is ${not}distinct from ${b}`),
      textual.map((of) => `cast(${of} as boolean)`),
      fc.constantFrom('b1', 'true', 'null'),
    ),
    condition: fc.oneof(
      { maxDepth: 3, withCrossShrink: true },
      tie('atom'),
      some(condition, fc.constantFrom('and', 'or'), condition).map(([a, word, b]) => `(${a} ${word} ${b})`),
      condition.map((of) => `not (${of})`),
      some(condition, negation, fc.constantFrom('true', 'false', 'unknown')).map(([of, not, truth]) => `(${of}) is ${not}${truth}`),
    ),
  };
});

export interface Generated {
  readonly source: string;
  readonly expression: Expression;
}

const direction = fc.constantFrom('', ' desc', ' nulls first', ' desc nulls last');
const anyLeaf = fc.constantFrom('w1', 'w2', 'd2', 'd6', 'open', 't1', 't2', 'day1', 'at1', 'time1', 'z1', 'b1', 'upper(t1)', 'w2 + d2');
const ordered = fc.constantFrom('w2', 'd2', 'open', 't1', 'day1', 'at1', 'f1', 'b1');
const partition = fc.oneof(
  fc.constant(''),
  some(anyLeaf).map(([of]) => `partition by ${of} `),
);
const byKey = some(partition, ordered, direction).map(([keys, of, way]) => `${keys}order by ${of}${way}, n`);
const byValue = some(partition, ordered, direction).map(([keys, of, way]) => `${keys}order by ${of}${way}`);
const frame = fc.constantFrom(
  '',
  ' rows between 2 preceding and current row',
  ' rows unbounded preceding',
  ' rows between 1 following and 2 following',
);
const over = fc.oneof(
  partition,
  byValue,
  some(byKey, frame).map((parts) => parts.join('')),
);
const summed = fc.constantFrom('w1', 'w2', 'd2', 'd6', 'd10', 'open', 'w2 * d2', 'd6 / w2');

const windowed = fc.oneof(
  some(fc.constantFrom('sum', 'avg'), summed, over).map(([name, of, rows]) => `${name}(${of}) over (${rows})`),
  some(fc.constantFrom('min', 'max', 'count'), fc.constantFrom('w1', 'd2', 'open', 't1', 'day1', 'at1', 'z1', 'f1'), over).map(
    ([name, of, rows]) => `${name}(${of}) over (${rows})`,
  ),
  over.map((rows) => `count(*) over (${rows})`),
  some(fc.constantFrom('rank', 'dense_rank'), byValue).map(([name, rows]) => `${name}() over (${rows})`),
  byKey.map((rows) => `row_number() over (${rows})`),
  some(fc.constantFrom('lag', 'lead'), anyLeaf, fc.constantFrom('', ', 2'), byKey).map(
    ([name, of, step, rows]) => `${name}(${of}${step}) over (${rows})`,
  ),
  some(anyLeaf, byKey).map(([of, rows]) => `first_value(${of}) over (${rows})`),
  byKey.map((rows) => `lag(d2, 1, 0) over (${rows})`),
  over.map((rows) => `d2 / sum(d2) over (${rows})`),
);

/** Texts that check; what the generator writes is nearly always right, and the rest is left out. */
const checked = (texts: fc.Arbitrary<string>, within: Schema = schema): fc.Arbitrary<Generated> =>
  texts
    .filter((source) => source.length < 400)
    .map((source) => ({ source, expression: checkExpression(source, { schema: within, parameters: [] }).expression }))
    .filter((each): each is Generated => each.expression !== undefined);

export const numberExpression = checked(made.number);
export const textExpression = checked(made.textual);
export const dayExpression = checked(made.day);
/** Over the keyed schema: values over other rows whose order is decided by the key where it matters. */
export const windowExpression = checked(windowed, keyed);
export const conditionExpression = checked(made.condition);
