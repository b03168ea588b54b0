import type { Clause, Condition, Operand, Parameter, Schema, Value } from '../src';
import {
  bindValues,
  applyBlanks,
  checkClause,
  clauseLines,
  date,
  datetime,
  decimal,
  evaluate,
  familyOf,
  instant,
  operatorByWord,
  operatorsFor,
  readValue,
  rowOf,
  slotForm,
  text,
  typeWord,
  whole,
  writtenForm,
  yesno,
} from '../src';
import { NOW } from './support/rows';

const types = { kilos: decimal(8, 2), frames: whole, grade: text, picked_on: date, weighed_at: datetime, seen_at: instant, treated: yesno };
const schema: Schema = {
  fields: Object.entries(types).map(([name, type]) => ({
    id: `id-${name}`,
    name,
    type,
    role: 'attribute',
    origin: { step: 't', column: name },
    forUseOnly: false,
  })),
};
const asking = (name: string, type: Parameter['type'], takes: Parameter['takes']): Parameter => ({
  id: `p-${name}`,
  name,
  type,
  takes,
  leftBlank: 'condition is off',
  startsAs: [],
  hint: '',
});
const empty = (of: Parameter): Parameter => ({ ...of, leftBlank: 'matches empty' });
const parameters = [
  asking('least', 'decimal', 'one'),
  asking('grades', 'text', 'several'),
  asking('period', 'date', 'range'),
  empty(asking('day', 'date', 'one')),
  empty(asking('moments', 'date-time', 'range')),
  empty(asking('part', 'text', 'one')),
];
const names = { schema, parameters };
const condition = (field: string, operator: string, operands: readonly Operand[], andNulls = false): Condition => ({
  id: 'c',
  kind: 'condition',
  off: false,
  field: `id-${field}`,
  operator,
  operands,
  andNulls,
});
const values = (...texts: string[]): readonly Operand[] => texts.map((each) => ({ kind: 'value', text: each }));

/** Values to ask with, and values of rows, by field. */
const ASKED: Record<keyof typeof types, readonly string[]> = {
  kilos: ['5', '12.5'],
  frames: ['3', '8'],
  grade: ["a'b", 'b'],
  picked_on: ['2025-04-01', '2025-09-30'],
  weighed_at: ['2025-04-01', '2025-04-02'],
  seen_at: ['2025-04-01', '2025-04-02'],
  treated: [],
};
const ROWS: Record<keyof typeof types, readonly (string | null)[]> = {
  kilos: [null, '4.99', '5', '12.5', '13'],
  frames: [null, '2', '3', '8', '9'],
  grade: [null, '', "a'b", "xa'b", "a'bx", 'b', 'a%'],
  picked_on: [null, '2025-03-31', '2025-04-01', '2025-09-30', '2025-10-01'],
  weighed_at: [null, '2025-03-31 23:59:59.999999', '2025-04-01', '2025-04-01 12:30', '2025-04-02 23:59:59', '2025-04-03'],
  seen_at: [null, '2025-03-31 23:59:59+00', '2025-04-01 00:00+00', '2025-04-02 23:59+00', '2025-04-03 00:00+00'],
  treated: [null, 'true', 'false'],
};

const every = Object.keys(types).flatMap((field) => {
  const name = field as keyof typeof types;
  return operatorsFor(types[name]).flatMap(({ word, takes, losesNulls }) => {
    const [first = '', second = ''] = ASKED[name];
    const operands = { none: [], one: [first], several: [first, second], range: [first, second] }[takes];
    return [false, ...(losesNulls ? [true] : [])].map((andNulls) => [name, word, operands, andNulls] as const);
  });
});

/** Where the moment of the run lies: within a season, and between two. */
const MOMENTS = [NOW, 1_737_000_000_000_000n];

/** The rows of a field that a clause keeps, by their wire text. */
function kept(clause: Clause, field: keyof typeof types, blank: readonly string[] | undefined, now: bigint): readonly (string | null)[] {
  const scope = { schema, parameters, now };
  const checked = checkClause(clause, scope);
  if (checked.problems.length > 0 || !checked.expression) throw new Error(JSON.stringify([clause, checked.problems]));
  const binding = bindValues(parameters, blank ? Object.fromEntries(parameters.map(({ id }) => [id, blank])) : GIVEN, now);
  const asked = applyBlanks(checked.expression, binding.blanks);
  const row = (name: string, wire: string | null): Value => {
    const read = wire === null ? undefined : readValue(types[name as keyof typeof types], wire);
    return read?.ok ? read.value : null;
  };
  const others = Object.entries(OTHERS).map(([name, wire]) => [`id-${name}`, row(name, wire)] as const);
  return ROWS[field].filter((wire) => {
    const at = rowOf(new Map([...others, [`id-${field}`, row(field, wire)]]), binding);
    return asked === undefined || evaluate(asked, { ...at, now }) === true;
  });
}

/** What other fields hold while one is asked about. */
const OTHERS = {
  kilos: '5',
  frames: '8',
  grade: 'b',
  picked_on: '2025-04-01',
  weighed_at: '2025-04-01 12:30',
  seen_at: '2025-04-01 12:30+00',
};
const GIVEN = {
  'p-least': ['5'],
  'p-grades': ["a'b", 'b'],
  'p-period': ['2025-04-01', '2025-04-02'],
  'p-day': ['2025-04-01'],
  'p-moments': ['2025-04-01 00:00', '2025-04-02 12:00'],
  'p-part': ["a'b"],
};

/** Every operand an operator of a field may have: typed in each of its forms, relative, a parameter, a field, an expression. */
function operandsOf(field: keyof typeof types, takes: 'one' | 'several' | 'range'): readonly (readonly Operand[])[] {
  const typed: Record<string, readonly string[]> = {
    number: ['5', '+5', '.5', '12.50', '-3', '8'],
    text: ["a'b", 'b', '', 'a%'],
    day: [
      '2025-04-01',
      '2025-4-2',
      'today',
      'today minus 14 days',
      'start of this month',
      'end of last season',
      'end of this season so far',
    ],
  };
  const family = familyOf(types[field]);
  const day = family === 'day';
  const finer = day && field !== 'picked_on';
  const one = [
    ...values(
      ...(typed[family] ?? []),
      ...(finer ? ['2025-04-01 12:30', '2025-04-02 00:00'] : []),
      ...(field === 'seen_at' ? ['2025-04-01 14:30+02', '2025-04-02 23:59:00+00'] : []),
    ),
    ...(Object.keys(types) as (keyof typeof types)[]).flatMap((other): Operand[] =>
      familyOf(types[other]) === family && (other !== 'seen_at' || field === 'seen_at') ? [{ kind: 'field', id: `id-${other}` }] : [],
    ),
    ...({ number: ['frames * 2'], text: ["grade || 'x'"], day: ["picked_on + interval '1' day"] }[family as string] ?? []).map(
      (text): Operand => ({ kind: 'expression', expression: { text, refs: [] } }),
    ),
  ];
  const asking = parameters.filter(
    (each) =>
      each.takes === takes &&
      (day ? ['date', ...(finer ? ['date-time'] : [])] : family === 'number' ? ['decimal'] : ['text']).includes(each.type),
  );
  const alone = asking.map(({ id }): readonly Operand[] => [{ kind: 'parameter', id }]);
  if (takes === 'one') return [...one.map((each) => [each]), ...alone];
  const ends = one.filter((_each, at) => at % 2 === 0 || finer || takes === 'several');
  const pairs = ends.flatMap((low) => ends.map((high) => [low, high]));
  const stretches = [
    'this season so far',
    'last 2 seasons so far',
    'last 3 months',
    'this week',
    'last 2 quarters so far',
    'next year',
    'last 3 days so far',
  ];
  return [...pairs, ...alone, ...(day && takes === 'range' ? stretches.map((each) => values(each)) : [])];
}

const cases = (Object.keys(types) as (keyof typeof types)[]).flatMap((field) =>
  operatorsFor(types[field]).map(({ word, takes, losesNulls }) => [field, word, takes, losesNulls ?? false] as const),
);

test.each(cases)(
  '%s %s, written out, keeps the same rows whatever it is asked with, and so does what it comes back as',
  (field, word, takes, losesNulls) => {
    let some = 0;
    for (const operands of takes === 'none' ? [[]] : operandsOf(field, takes)) {
      for (const andNulls of losesNulls ? [false, true] : [false]) {
        const clause = condition(field, word, operands, andNulls);
        const written = writtenForm(clause, names);
        if (!written) throw new Error(`${JSON.stringify(operands)} has no written form`);
        const back = slotForm(written, names);
        for (const now of MOMENTS) {
          for (const blank of operands.some((each) => each.kind === 'parameter') ? [undefined, ['', '']] : [undefined]) {
            const rows = kept(clause, field, blank, now);
            const said = [written.expression.text, blank];
            expect([said, kept(written, field, blank, now)]).toEqual([said, rows]);
            if (back) expect([said, kept(back, field, blank, now)]).toEqual([said, rows]);
            if (rows.length > 0 && rows.length < ROWS[field].length) some++;
          }
        }
      }
    }
    expect(some).toBeGreaterThan(0);
  },
);

test.each(every)('%s %s, written out, keeps the same rows and comes back as slots', (field, word, operands, andNulls) => {
  const clause = condition(field, word, values(...operands), andNulls);
  const written = writtenForm(clause, names);
  if (!written) throw new Error('it has no written form');
  const scope = { schema, parameters, now: NOW };
  const [slots, text_] = [checkClause(clause, scope), checkClause(written, scope)];
  expect(text_.problems).toEqual([]);
  const row = (wire: string | null): Value => {
    const read = wire === null ? undefined : readValue(types[field], wire);
    return read?.ok ? read.value : null;
  };
  const binding = bindValues([], {}, NOW);
  for (const wire of ROWS[field]) {
    const at = rowOf(new Map([[`id-${field}`, row(wire)]]), binding);
    const outcome = (each: typeof slots) => each.expression && evaluate(each.expression, at) === true;
    expect({ wire, kept: outcome(text_) }).toEqual({ wire, kept: outcome(slots) });
  }
  const back = slotForm(written, names);
  // “is empty” is “is ''” as well; both say the same.
  if (word === 'is empty') expect(back).toEqual(condition(field, 'is', values('')));
  else expect(back).toEqual(clause);
});

test.each([
  ['kilos at least :least', condition('kilos', 'at least', [{ kind: 'parameter', id: 'p-least' }]), 'kilos >= :least'],
  ['grade one of :grades', condition('grade', 'one of', [{ kind: 'parameter', id: 'p-grades' }]), 'grade in (:grades)'],
  ['within :period', condition('picked_on', 'within', [{ kind: 'parameter', id: 'p-period' }]), 'picked_on between :period and :period'],
  ['another field', condition('kilos', 'above', [{ kind: 'field', id: 'id-frames' }]), 'kilos > frames'],
  [
    'an expression',
    condition('kilos', 'above', [{ kind: 'expression', expression: { text: 'frames * 2', refs: [] } }]),
    'kilos > (frames * 2)',
  ],
  [
    'a relative stretch',
    condition('picked_on', 'within', values('last 3 months')),
    "picked_on between start_of_month(current_date - interval '3' month) and end_of_month(current_date - interval '1' month)",
  ],
  [
    'a stretch so far, on a date-time',
    condition('weighed_at', 'within', values('this season so far')),
    'cast(weighed_at as date) between start_of_season(current_date) and least(current_date, end_of_season(current_date))',
  ],
  ['a relative day', condition('picked_on', 'from', values('today minus 14 days')), "picked_on >= current_date - interval '14' day"],
  [
    'the end of a stretch',
    condition('picked_on', 'before', values('end of last year')),
    "picked_on < end_of_year(current_date - interval '12' month)",
  ],
])('%s has a written form and comes back', (_, clause, written) => {
  const form = writtenForm(clause, names);
  expect(form?.expression.text).toBe(written);
  const back = form && slotForm(form, names);
  const plain = (each: Condition | undefined) => JSON.stringify(each, (key, value: unknown) => (key === 'refs' ? undefined : value));
  expect(plain(back)).toBe(plain(clause));
});

test('an expression that no slots can say stays one', () => {
  for (const written of ['kilos * 2 > frames', 'kilos > 5 or frames > 2', 'kilos >', 'grade in (:least)'])
    expect(slotForm({ id: 'c', kind: 'expression', off: false, expression: { text: written, refs: [] } }, names)).toBeUndefined();
});

test('a clause with an open slot, or a value that is none, has no written form', () => {
  expect(writtenForm(condition('kilos', 'at least', []), names)).toBeUndefined();
  expect(writtenForm(condition('kilos', 'at least', values('a few')), names)).toBeUndefined();
  expect(writtenForm(condition('kilos', 'from…to', values('5')), names)).toBeUndefined();
});

test('clauses are numbered in reading order, inner ones under their group', () => {
  const leaf = (id: string): Condition => ({ ...condition('kilos', 'at least', values('5')), id });
  const lines = clauseLines('every one', [
    leaf('a'),
    { id: 'g', kind: 'group', off: false, head: 'at least one', clauses: [leaf('b'), leaf('c')] },
    leaf('d'),
  ]);
  expect(lines.map(({ number, head, clause }) => [clause.id, number, head])).toEqual([
    ['a', '1', 'every one'],
    ['g', '2', 'every one'],
    ['b', '2.1', 'at least one'],
    ['c', '2.2', 'at least one'],
    ['d', '3', 'every one'],
  ]);
});

test('an operand of a wrong type or one that is gone is told at its clause', () => {
  const told = (clause: Condition) => checkClause(clause, { schema, parameters }).problems.map((each) => each.code);
  expect(told(condition('kilos', 'above', [{ kind: 'field', id: 'id-grade' }]))).toEqual(['type-mixed']);
  expect(told(condition('kilos', 'above', [{ kind: 'field', id: 'gone' }]))).toEqual(['field-gone']);
  expect(told(condition('kilos', 'above', [{ kind: 'expression', expression: { text: 'grade', refs: [] } }]))).toEqual(['type-mixed']);
  expect(told(condition('kilos', 'above', [{ kind: 'expression', expression: { text: 'framse + 1', refs: [] } }]))).toEqual([
    'field-unknown',
  ]);
  expect(told(condition('picked_on', 'from', values('someday')))).toEqual(['value-wrong-type']);
  expect(typeWord(types.kilos)).toBe('decimal(8,2)');
  expect(operatorByWord('at least')?.takes).toBe('one');
});
