import { checkExpression, evaluate, failureOf, trace } from '../src';
import { rowFrom } from './support/rows';
import { schema } from './support/wire-rows';

/** Where computing an expression fails, and what its parts come to. */

describe('failures', () => {
  const failed = (source: string, wire = {}) => {
    const { expression } = checkExpression(source, { schema, parameters: [] });
    const failure = expression && failureOf(expression);
    return failure !== undefined && evaluate(failure, rowFrom(wire)) === true;
  };
  test.each([
    ['d2 / 0', true],
    ["cast('n/a' as integer)", true],
    ["parse_date('31.02.2025', 'dd.MM.yyyy')", true],
    ['sqrt(-1)', true],
    ["date '9999-12-31' + interval '1' day", true],
    ['case when true then 1 else 1 / 0 end', false],
    ['case when 1 / 0 > 1 then 1 else 2 end', true],
    ['coalesce(1 / 0, 5)', false],
    ['coalesce(1 / 0, null)', true],
    ['1 / 0 > 5 or true', false],
    ['(1 / 0) is null', false],
    ['w1 / 2', false],
    ['cast(t1 as date)', false],
  ])('%s counts as failed: %s', (source, expected) => expect(failed(source, { d2: '1.00', w1: null, t1: null })).toBe(expected));
});

const broken = (): never => {
  throw new Error('it checks');
};

describe('a trace', () => {
  const traced = (source: string, wire = {}) => {
    const { part } = checkExpression(source, { schema, parameters: [] });
    const lines: string[] = [];
    const walk = (node: ReturnType<typeof trace>, depth: number) => {
      const value =
        node.value === null
          ? node.failed
            ? 'failed'
            : 'null'
          : typeof node.value === 'object'
            ? String(node.value.digits)
            : String(node.value);
      lines.push(`${'  '.repeat(depth)}${source.slice(node.from, node.to)}: ${node.reached ? value : 'not needed'}`);
      node.parts.forEach((each) => walk(each, depth + 1));
    };
    walk(trace(part ?? broken(), rowFrom(wire)), 0);
    return lines;
  };

  test('tells each part as the text is nested, with what was not needed', () => {
    expect(traced("case when w1 > 5 then 'large' else t1 end", { w1: '7', t1: 'x' })).toEqual([
      "case when w1 > 5 then 'large' else t1 end: large",
      '  w1 > 5: true',
      '    w1: 7',
      '    5: 5',
      "  'large': large",
      '  t1: not needed',
    ]);
    expect(traced('coalesce(w1, w2)', { w1: '1' })[2]).toBe('  w2: not needed');
  });

  test('says where a failure began, and only there', () => {
    expect(traced('(w1 / w2) + 1', { w1: '1', w2: '0' })).toEqual([
      '(w1 / w2) + 1: null',
      '  w1 / w2: failed',
      '    w1: 1',
      '    w2: 0',
      '  1: 1',
    ]);
  });
});
