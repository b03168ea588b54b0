import fc from 'fast-check';
import type { Parameter, Value } from '../src';
import {
  applyBlanks,
  arithmeticType,
  checkExpression,
  decimal,
  evaluate,
  failureOf,
  float,
  linkReferences,
  MAX_DEPTH,
  parseExpression,
  readValue,
  renameReference,
  tokenize,
  typeWord,
  whole,
  writeValue,
} from '../src';
import { conditionExpression, numberExpression } from './support/generate';
import { schema, wireRow } from './support/wire-rows';
import { rowFrom } from './support/rows';

const parameter: Parameter = {
  id: 'p',
  name: 'least',
  type: 'decimal',
  takes: 'one',
  leftBlank: 'condition is off',
  startsAs: [],
  hint: '',
};
const scope = { schema, parameters: [parameter] };

/** The wire text of an expression without fields. */
function valueOf(source: string): string | null {
  const { expression, problems } = checkExpression(source, scope);
  if (!expression) throw new Error(problems.map((each) => each.message).join(' '));
  const value = evaluate(expression, rowFrom({}));
  return value === null ? null : writeValue(expression.type, value);
}

describe('expressions give', () => {
  test.each([
    ['1 + 2 * 3', '7'],
    ['(1 + 2) * 3', '9'],
    ['2 - 3 - 4', '-5'],
    ['1.50 + 2', '3.50'],
    ['1.5 * 1.5', '2.25'],
    ['1 / 3', '0.333333'],
    ['2 / 3', '0.666667'],
    ['-2 / 3', '-0.666667'],
    ['1.0000000 / 8', '0.1250000'],
    ['0.0000005 / 1', '0.0000005'],
    ['1 / 0', null],
    ['9 / 2 = 4.5', 'true'],
    ['null = null', null],
    ['null is null', 'true'],
    ['true and null', null],
    ['false and null', 'false'],
    ['true or null', 'true'],
    ['not null', null],
    ["'a' < 'B'", 'false'],
    ["'x' = 'x '", 'false'],
    ["'😀' > '\uffff'", 'true'],
    ["'O''Sedge' like 'O_S%'", 'true'],
    ["'50%' like '50!%' escape '!'", 'true'],
    ["'a\\b' like 'a\\b'", 'true'],
    ['3 in (1, null)', null],
    ['3 in (3, null)', 'true'],
    ['3 not in (1, null)', null],
    ['5 between 1 and 5', 'true'],
    ["date '2025-04-30' < timestamp '2025-04-30 00:00:01'", 'true'],
    ['1e308 * 10', null],
    ['1e0 / 0', null],
    ['99999999999999999999999999999999999999 + 1', null],
    ['99999999999999999999 * 99999999999999999999', null],
    ['-- remark\n 1 + 1', '2'],
  ])('%s as %s', (source, expected) => expect(valueOf(source)).toBe(expected));
});

describe('the decimal rule table', () => {
  test.each([
    ['+', decimal(8, 2), decimal(20, 6), 'decimal(21,6)'],
    ['+', whole, whole, 'decimal(20,0)'],
    ['-', decimal(38, 10), decimal(38, 0), 'decimal(38,6)'],
    ['*', decimal(8, 2), decimal(20, 6), 'decimal(28,8)'],
    ['*', decimal(38, 10), decimal(38, 10), 'decimal(38,6)'],
    ['*', whole, whole, 'decimal(38,0)'],
    ['/', whole, whole, 'decimal(25,6)'],
    ['/', decimal(8, 2), decimal(8, 2), 'decimal(14,6)'],
    ['/', decimal(20, 10), decimal(8, 2), 'decimal(22,10)'],
    ['+', float, decimal(8, 2), 'floating number'],
  ] as const)('%s of %j and %j is %s', (operator, left, right, expected) => {
    const type = arithmeticType(operator, left, right);
    expect(type && typeWord(type)).toBe(expected);
  });
});

describe('a wrong expression is told', () => {
  test.each([
    ['kilo > 1', 'field-unknown', 0, 4],
    ['d2 > t1', 'type-mixed', 5, 7],
    ["d2 > '5'", 'type-mixed', 5, 8],
    ['d2 + b1', 'type-mixed', 5, 7],
    ['d2 >', 'expression-unexpected', 4, 4],
    ['(d2 > 1', 'expression-unexpected', 7, 7],
    ['d2 > 1 1', 'expression-unexpected', 7, 8],
    ["t1 = 'open", 'text-not-closed', 5, 10],
    ['d2 ? 1', 'sign-unknown', 3, 4],
    ["date '2025-02-29' = day1", 'date-unreadable', 0, 17],
    ['d2 > :lest', 'parameter-unknown', 5, 10],
    ["t1 like 'a!' escape '!'", 'escape-dangling', 8, 12],
    ['select > 1', 'field-unknown', 0, 6],
    ['and > 1', 'expression-unexpected', 0, 3],
  ])('%s: %s at %i to %i', (source, code, from, to) => {
    const [first] = checkExpression(source, scope).problems;
    expect(first).toMatchObject({ code, place: { position: { from, to } } });
  });

  test('with the name that was meant', () => {
    expect(checkExpression('d_2 > 1', scope).problems[0]?.expected).toContain('d2');
    expect(checkExpression(':leest = 1', scope).problems[0]?.expected).toContain(':least');
  });

  test('without exhausting anything when it is huge or deep', () => {
    const deep = `${'('.repeat(20_000)}1${')'.repeat(20_000)}`;
    const long = Array.from({ length: 10_000 }, () => '1').join(' + ');
    const minus = '- '.repeat(3_000) + '1';
    for (const source of [deep, long, minus]) expect(parseExpression(source).problems.length).toBeGreaterThan(0);
    const chain = Array.from({ length: 900 }, (_, index) => `w1 = ${index}`).join(' or ');
    expect(checkExpression(chain, scope).problems).toEqual([]);
    expect(MAX_DEPTH).toBeLessThan(1_000);
  });

  test('and whatever is typed, reading ends and every position lies in the text', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc
            .array(fc.constantFrom('(', ')', 'and', 'in', ',', 'd2', ':least', "'", '-', 'not', 'like', '1'), { maxLength: 30 })
            .map((each) => each.join(' ')),
        ),
        (source) => {
          const { problems } = checkExpression(source, scope);
          for (const { place } of problems) {
            expect(place.position?.from).toBeGreaterThanOrEqual(0);
            expect(place.position?.to).toBeLessThanOrEqual(source.length);
          }
        },
      ),
    );
  });
});

describe('blank parameters', () => {
  const condition = (source: string) => {
    const { expression } = checkExpression(source, scope);
    if (!expression) throw new Error('the example is wrong');
    return expression;
  };
  const off = new Map([['p', 'off' as const]]);

  test('switch off the condition they stand in, and only that', () => {
    expect(applyBlanks(condition('d2 >= :least'), off)).toBeUndefined();
    expect(applyBlanks(condition('d2 >= :least and w1 = 1'), off)).toEqual(condition('w1 = 1'));
    expect(applyBlanks(condition('not (d2 >= :least or w1 = 1)'), off)).toEqual(condition('not (w1 = 1)'));
  });

  test('or ask for null', () => {
    const nulls = new Map([['p', 'null' as const]]);
    expect(applyBlanks(condition('d2 = :least'), nulls)).toEqual(condition('d2 is null'));
    expect(applyBlanks(condition('d2 <> :least'), nulls)).toEqual(condition('d2 is not null'));
  });
});

describe('for generated expressions', () => {
  test('a value always fits its type, and failing is told apart from null operands', () => {
    fc.assert(
      fc.property(numberExpression, wireRow, ({ expression }, wire) => {
        const row = rowFrom(wire);
        const value = evaluate(expression, row);
        if (value !== null && expression.type.kind !== 'float') {
          const again = readValue(expression.type, writeValue(expression.type, value));
          expect(again.ok).toBe(true);
        }
        const failure = failureOf(expression);
        const failed = failure !== undefined && evaluate(failure, row) === true;
        if (failed) expect(value).toBeNull();
      }),
    );
  });

  test('double negation changes nothing, and "or" is "and" mirrored', () => {
    fc.assert(
      fc.property(conditionExpression, conditionExpression, wireRow, (a, b, wire) => {
        const row = rowFrom(wire);
        const value = (source: string): Value => {
          const { expression } = checkExpression(source, { schema, parameters: [] });
          return expression ? evaluate(expression, row) : null;
        };
        expect(value(`not not (${a.source})`)).toBe(value(a.source));
        expect(value(`not ((${a.source}) and (${b.source}))`)).toBe(value(`not (${a.source}) or not (${b.source})`));
      }),
    );
  });

  test('renaming a field rewrites every mention and can be taken back', () => {
    fc.assert(
      fc.property(conditionExpression, ({ source }) => {
        const linked = linkReferences(source, { schema, parameters: [] });
        const there = renameReference(linked, 'field', 't1', 'odd "name"');
        const back = renameReference(there, 'field', 't1', 't1');
        expect(tokenize(there.text).tokens.some((each) => each.kind === 'name' && each.text === 't1')).toBe(false);
        expect(back).toEqual(linked);
      }),
    );
  });
});
