import type { Clause, Condition, FieldType, Parameter, Schema, Value } from '../src';
import {
  applyBlanks,
  checkClause,
  clauseSentence,
  criteriaSentence,
  date,
  datetime,
  decimal,
  evaluate,
  instant,
  OPERATORS,
  operatorsFor,
  readValue,
  rowOf,
  text,
  whole,
  yesno,
  bindValues,
} from '../src';

const types: Readonly<Record<string, FieldType>> = {
  kilos: decimal(8, 2),
  count: whole,
  word: text,
  day: date,
  at: datetime,
  seen: instant,
  sure: yesno,
};
const schema: Schema = {
  fields: Object.entries(types).map(([name, type]) => ({
    id: name,
    name,
    type,
    role: 'attribute',
    origin: { step: 't', column: name },
    forUseOnly: false,
  })),
};
const condition = (field: string, operator: string, ...values: string[]): Condition => ({
  id: 'c',
  kind: 'condition',
  off: false,
  field,
  operator,
  operands: values.map((value) => ({ kind: 'value', text: value })),
  andNulls: false,
});

/** What a clause says of one value of its field: true, false or null. */
function of(
  clause: Clause,
  field: string,
  value: string | null,
  parameters: readonly Parameter[] = [],
  given: Record<string, string[]> = {},
): Value | undefined {
  const { expression, problems } = checkClause(clause, { schema, parameters });
  if (!expression) throw new Error(problems.map((each) => each.message).join(' ') || 'the clause asks nothing');
  const binding = bindValues(parameters, given, 0n);
  const asked = applyBlanks(expression, binding.blanks);
  const type = types[field] ?? text;
  const read = value === null ? { ok: true as const, value: null } : readValue(type, value);
  if (!read.ok) throw new Error(`${value} is no ${field}`);
  return asked && evaluate(asked, rowOf(new Map([[field, read.value]]), binding));
}

describe('an operator means', () => {
  test.each([
    ['word', 'is', ['bee'], ['bee'], ['Bee', 'bee ']],
    ['word', 'is not', ['bee'], ['Bee', ''], ['bee']],
    ['word', 'one of', ['a', 'b'], ['a', 'b'], ['c', '']],
    ['word', 'none of', ['a', 'b'], ['c'], ['a']],
    ['word', 'contains', ['ee'], ['bees', 'ee'], ['EE', 'e e']],
    ['word', 'lacks', ['ee'], ['be'], ['bee']],
    ['word', 'begins', ['b_'], ['b_x'], ['bx', 'ab_']],
    ['word', 'ends', ['%'], ['50%'], ['50']],
    ['word', 'fits', ['b_e%'], ['bee', 'blest'.replace('lest', 'xest')], ['be', 'abee']],
    ['word', 'is empty', [], [''], [' ', 'x']],
    ['kilos', 'equals', ['5'], ['5.00'], ['5.01']],
    ['kilos', 'differs from', ['5'], ['5.01'], ['5.00']],
    ['kilos', 'at least', ['4.255'], ['4.26'], ['4.25']],
    ['kilos', 'at most', ['5'], ['5.00', '-1'], ['5.01']],
    ['kilos', 'above', ['5'], ['5.01'], ['5.00']],
    ['kilos', 'below', ['5'], ['4.99'], ['5.00']],
    ['kilos', 'from…to', ['1', '2'], ['1.00', '2.00'], ['0.99', '2.01']],
    ['kilos', 'outside', ['1', '2'], ['0.99', '2.01'], ['1.00', '2.00']],
    ['count', 'one of', ['1', '2'], ['2'], ['3']],
    ['day', 'on', ['2025-04-30'], ['2025-04-30'], ['2025-05-01']],
    ['day', 'not on', ['2025-04-30'], ['2025-05-01'], ['2025-04-30']],
    ['day', 'before', ['2025-04-30'], ['2025-04-29'], ['2025-04-30']],
    ['day', 'after', ['2025-04-30'], ['2025-05-01'], ['2025-04-30']],
    ['day', 'within', ['2025-04-01', '2025-04-30'], ['2025-04-01', '2025-04-30'], ['2025-03-31', '2025-05-01']],
    ['at', 'on', ['2025-04-30'], ['2025-04-30 00:00', '2025-04-30 23:59:59.999999'], ['2025-05-01 00:00']],
    ['at', 'not on', ['2025-04-30'], ['2025-05-01 00:00'], ['2025-04-30 12:00']],
    ['at', 'until', ['2025-04-30'], ['2025-04-30 23:59:59.999999'], ['2025-05-01 00:00']],
    ['at', 'after', ['2025-04-30'], ['2025-05-01 00:00'], ['2025-04-30 23:59:59.999999']],
    ['at', 'from', ['2025-04-30'], ['2025-04-30 00:00'], ['2025-04-29 23:59:59.999999']],
    ['at', 'until', ['2025-04-30 12:00'], ['2025-04-30 12:00'], ['2025-04-30 12:00:00.000001']],
    ['at', 'outside', ['2025-04-01', '2025-04-30'], ['2025-05-01 00:00', '2025-03-31 23:59'], ['2025-04-30 23:00']],
    ['seen', 'on', ['2025-04-30'], ['2025-05-01 00:30+01'], ['2025-05-01 00:30+00']],
    ['sure', 'is yes', [], ['true'], ['false']],
    ['sure', 'is no', [], ['false'], ['true']],
  ])('%s %s %j: yes for %j, no for %j', (field, operator, values, yes, no) => {
    for (const value of yes) expect([value, of(condition(field, operator, ...values), field, value)]).toEqual([value, true]);
    for (const value of no) expect([value, of(condition(field, operator, ...values), field, value)]).toEqual([value, false]);
  });

  test('nothing for null, unless it asks for null or takes nulls in', () => {
    expect(of(condition('word', 'is not', 'bee'), 'word', null)).toBeNull();
    expect(of({ ...condition('word', 'is not', 'bee'), andNulls: true }, 'word', null)).toBe(true);
    expect(of(condition('word', 'is null'), 'word', null)).toBe(true);
    expect(of(condition('word', 'has a value'), 'word', null)).toBe(false);
  });

  test('the same wherever it is offered: every operator has an example of a suited field', () => {
    const offered = new Set(Object.values(types).flatMap((type) => operatorsFor(type).map((each) => each.word)));
    expect([...offered].sort()).toEqual(OPERATORS.map((each) => each.word).sort());
  });
});

describe('clauses', () => {
  const parameters: readonly Parameter[] = [
    { id: 'p', name: 'period', type: 'date', takes: 'range', leftBlank: 'condition is off', startsAs: [], hint: '' },
    { id: 's', name: 'words', type: 'text', takes: 'several', leftBlank: 'matches empty', startsAs: [], hint: '' },
  ];
  const asking = (field: string, operator: string, id: string): Condition => ({
    ...condition(field, operator),
    operands: [{ kind: 'parameter', id }],
  });

  test('ask with a range whose ends may each be open', () => {
    const clause = asking('at', 'within', 'p');
    expect(of(clause, 'at', '2025-04-30 23:00', parameters, { p: ['2025-04-01', '2025-04-30'] })).toBe(true);
    expect(of(clause, 'at', '1999-01-01 00:00', parameters, { p: ['', '2025-04-30'] })).toBe(true);
    expect(of(clause, 'at', '2025-05-01 00:00', parameters, { p: ['', '2025-04-30'] })).toBe(false);
    expect(of(clause, 'at', '2025-05-01 00:00', parameters, {})).toBeUndefined();
  });

  test('ask with several values, or for null when they are blank', () => {
    const clause = asking('word', 'one of', 's');
    expect(of(clause, 'word', 'b', parameters, { s: ['a', 'b'] })).toBe(true);
    expect(of(clause, 'word', null, parameters, { s: [] })).toBe(true);
    expect(of(clause, 'word', 'b', parameters, { s: [] })).toBe(false);
  });

  test.each([
    ['a missing field', condition('gone', 'is', 'x'), 'field-gone'],
    ['an operator of another type', condition('kilos', 'contains', 'x'), 'operator-unsuited'],
    ['a value of another type', condition('day', 'on', 'soon'), 'value-wrong-type'],
    ['a parameter that is gone', asking('word', 'is', 'gone'), 'parameter-gone'],
    ['a parameter of another shape', asking('word', 'is', 's'), 'parameter-takes'],
    ['a parameter of another type', asking('kilos', 'from…to', 'p'), 'type-mixed'],
    ['a field of another type', { ...condition('kilos', 'at least'), operands: [{ kind: 'field' as const, id: 'word' }] }, 'type-mixed'],
  ])('with %s is a problem at the clause', (_, clause, code) => {
    expect(checkClause(clause, { schema, parameters }).problems).toMatchObject([{ code, place: { clause: 'c' } }]);
  });

  test.each([
    ['an empty field slot', condition('', '')],
    ['an empty value slot', condition('kilos', 'at least')],
    ['half a range', condition('kilos', 'from…to', '1', '')],
    ['a clause that is off', { ...condition('gone', 'is', 'x'), off: true }],
  ])('with %s ask nothing and are no error', (_, clause) => {
    expect(checkClause(clause, { schema, parameters })).toEqual({ clause, problems: [] });
  });

  test('nest in groups', () => {
    const group: Clause = {
      id: 'g',
      kind: 'group',
      off: false,
      head: 'at least one',
      clauses: [
        condition('kilos', 'above', '9'),
        { id: 'h', kind: 'group', off: false, head: 'none', clauses: [condition('kilos', 'above', '1')] },
      ],
    };
    expect(['10', '5', '0.5'].map((value) => of(group, 'kilos', value))).toEqual([true, false, true]);
    expect(of(group, 'kilos', null)).toBe(true);
  });

  test('say themselves in words', () => {
    expect(clauseSentence(condition('kilos', 'from…to', '1', '2'), schema, [])).toBe('kilos from…to 1 to 2');
    expect(clauseSentence(asking('at', 'within', 'p'), schema, parameters)).toBe('at within :period');
    expect(clauseSentence(condition('word', 'one of', ...Array.from({ length: 13 }, String)), schema, [])).toBe('word one of 13 values');
    expect(criteriaSentence('at least one', [condition('kilos', 'above', '9'), condition('word', 'is empty')], schema, [])).toBe(
      'kilos above 9 or word is empty',
    );
    expect(criteriaSentence('every one', [], schema, [])).toBe('every row');
  });
});
