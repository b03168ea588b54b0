import fc from 'fast-check';
import type { Expression, Schema } from '../../src';
import { checkExpression } from '../../src';
import { days, keyed, oddText, schema } from './wire-rows';

const numberLeaf = fc.oneof(
  fc.constantFrom('w1', 'w2', 'd2', 'd6', 'd10', 'open', '0', '1', '2.5', '3', '0.000001', '12345678901234567890.5'),
  fc.constantFrom('w2', 'd2', 'd6', 'open'),
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
