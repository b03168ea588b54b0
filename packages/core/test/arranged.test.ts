import type { ArrangeStep, Definition, Parameter, Step } from '../src';
import {
  applyEdits,
  arrangeStep,
  arrangeViewEdits,
  bindValues,
  checkedStep,
  checkTrail,
  duckdb,
  invertEdits,
  outputColumns,
  planCounts,
  planRows,
  ProblemError,
  relationAfter,
  shownOrder,
} from '../src';
import { told, trailOf } from './support/apiaries';
import { criteria } from './support/harvests';

/** Rows sorted, counted, told apart and chosen; which rows are the first is never left to chance without a word. */

const nothing = bindValues([], {}, 0n);
const by = (field: string, descending = false, nullsFirst = false) => ({ id: `s-${field}`, field, descending, nullsFirst });
const first = (text: string, given: Partial<NonNullable<ArrangeStep['first']>> = {}) => ({
  count: { text, refs: [] },
  ties: false,
  per: [],
  ...given,
});
const arrange = (given: Partial<ArrangeStep> = {}): ArrangeStep => ({ ...arrangeStep(() => 'a', 'h'), ...given });
const problems = (definition: Definition) => checkTrail(definition).problems.map((each) => [each.code, each.severity]);

test('the first rows by an order, nulls where they are wanted', () => {
  expect(told(trailOf(arrange({ sort: [by('kilos', true)], first: first('2') })), nothing, 'id').toSorted()).toEqual(['1', '3']);
  expect(told(trailOf(arrange({ sort: [by('kilos', false, true)], first: first('1') })), nothing, 'id')).toEqual(['5']);
});

test('rows that are equal to the last one stay with ties, and are decided by the key without', () => {
  const least = { sort: [by('kilos')], first: first('1') };
  expect(told(trailOf(arrange(least)), nothing, 'id')).toEqual(['2']);
  expect(told(trailOf(arrange({ ...least, first: first('1', { ties: true }) })), nothing, 'id').toSorted()).toEqual(['2', '4']);
});

test('so many of each group', () => {
  const best = arrange({ sort: [by('kilos', true)], first: first('1', { per: ['region'] }) });
  expect(told(trailOf(best), nothing, 'id').toSorted()).toEqual(['1', '3', '5']);
  // One row per region, so the region tells them apart.
  expect(checkedStep(checkTrail(trailOf(best)), 'a')?.grain.keys).toEqual([['id'], ['region']]);
});

test('one row per combination of fields: the first by the order', () => {
  const one = arrange({ sort: [by('picked', true)], distinct: ['region'] });
  expect(told(trailOf(one), nothing, 'id').toSorted()).toEqual(['2', '4', '5']);
  expect(checkedStep(checkTrail(trailOf(one)), 'a')?.grain).toMatchObject({ row: 'region', keys: [['region'], ['id']] });
});

test('fields are chosen, put in order, and kept for use only, as those sorted by are', () => {
  const chosen = arrange({
    sort: [by('picked')],
    fields: [
      { field: 'kilos', forUseOnly: false },
      { field: 'id', forUseOnly: true },
    ],
  });
  const checked = checkedStep(checkTrail(trailOf(chosen)), 'a');
  expect(checked?.schema.fields.map((each) => [each.id, each.forUseOnly])).toEqual([
    ['kilos', false],
    ['id', true],
    ['picked', true],
  ]);
});

const most: Parameter = {
  id: 'n',
  name: 'most',
  type: 'whole number',
  takes: 'one',
  leftBlank: 'condition is off',
  startsAs: [],
  hint: '',
};

test('how many can be a parameter: blank keeps all, below one is refused at its place', () => {
  const asked: Definition = { ...trailOf(arrange({ sort: [by('id')], first: first(':most') })), parameters: [most] };
  const bound = (...value: readonly string[]) => bindValues([most], { n: value }, 0n);
  expect(told(asked, bound('2'), 'id')).toEqual(['1', '2']);
  expect(told(asked, bound(), 'id')).toHaveLength(5);
  const refused = () => relationAfter(checkTrail(asked), 'a', bound('0'));
  expect(refused).toThrow(ProblemError);
  try {
    refused();
  } catch (error) {
    expect((error as ProblemError).problems[0]).toMatchObject({ code: 'count-below-one', place: { step: 'a', field: 'first' } });
  }
});

test.each([
  ['none', { first: first('0') }, 'count-below-one', 'error'],
  ['blank', { first: first(' ') }, 'count-missing', 'error'],
  ['a text', { first: first("'many'") }, 'count-unsuited', 'error'],
  ['a field', { first: first('kilos') }, 'field-unknown', 'error'],
  ['the first of no order', { first: first('3') }, 'first-unordered', 'warning'],
  ['alike in nothing', { distinct: [] }, 'distinct-empty', 'error'],
  ['a sort field that is gone', { sort: [by('gone')] }, 'field-gone', 'error'],
  ['a sort that says nothing', { sort: [by('')] }, 'sort-missing', 'error'],
  ['no field at all', { fields: [] }, 'nothing-handed', 'error'],
] as const)('%s is told: %s', (_words, given, code, severity) => {
  expect(problems(trailOf(arrange(given as unknown as Partial<ArrangeStep>)))).toContainEqual([code, severity]);
});

test('a tie is said: decided by the key where there is one, by chance where there is none', () => {
  const tied = { sort: [by('kilos')], first: first('1') };
  expect(problems(trailOf(arrange(tied)))).toContainEqual(['order-ties', 'hint']);
  const keyless = trailOf(arrange(tied));
  const [table, step] = keyless.steps;
  expect(problems({ ...keyless, steps: [{ ...table, keys: [] } as unknown as Step, step as Step] })).toContainEqual([
    'order-ties',
    'warning',
  ]);
  expect(problems(trailOf(arrange({ sort: [by('kilos'), by('id')], first: first('1') })))).toEqual([]);
});

test('the order goes on through what keeps rows, and ends where rows are made anew', () => {
  const sorted = arrange({ sort: [by('kilos', true, true)] });
  const trail = checkTrail(trailOf(sorted, criteria('c', 'a', 'kilos > 1')));
  expect(shownOrder(trail, 'c')).toEqual([{ id: 's-kilos', field: 'kilos', descending: true, nullsFirst: true }]);
  const off = checkTrail(trailOf({ ...sorted, off: true }, criteria('c', 'a', 'kilos > 1')));
  expect(shownOrder(off, 'c')).toEqual([]);
  const summed: Step = {
    id: 'z',
    kind: 'summarise',
    name: '',
    off: false,
    inputs: ['a'],
    keys: [{ id: 'k', name: 'k', expression: { text: 'region', refs: [] } }],
    values: [],
  };
  expect(shownOrder(checkTrail(trailOf(sorted, summed)), 'z')).toEqual([]);
});

test('what keeps rows only is counted together with the steps around it', () => {
  const trail = checkTrail(
    trailOf(arrange({ sort: [by('kilos')], fields: [{ field: 'kilos', forUseOnly: false }] }), criteria('c', 'a', 'kilos > 1')),
  );
  expect(planCounts(trail, 'c', nothing).segments).toHaveLength(1);
  const cut = checkTrail(trailOf(criteria('b', 'h', 'kilos > 1'), arrange({ inputs: ['b'], sort: [by('id')], first: first('1') })));
  expect(planCounts(cut, 'a', nothing).segments).toHaveLength(2);
});

test('the first of all are found without numbering every row', () => {
  const trail = checkTrail(trailOf(arrange({ sort: [by('kilos', true)], first: first('3') })));
  const plan = planRows(relationAfter(trail, 'a', nothing), outputColumns(trail, 'a'), undefined, () => duckdb);
  expect(JSON.stringify(plan, (_key, value: unknown) => (typeof value === 'bigint' ? String(value) : value))).not.toContain('rowNumber');
});

test('the way rows are looked at becomes a step: sorted so, hidden fields for use only', () => {
  let count = 0;
  const trail = checkTrail(trailOf());
  const { edits, step } = arrangeViewEdits(() => `m${count++}`, trail, 'h', {
    sort: [{ field: 'kilos', descending: true }],
    shown: ['kilos', 'id', 'region', 'flower', 'picked'],
  });
  const after = applyEdits(trail.definition, edits);
  expect(after.result).toBe(step);
  expect(checkedStep(checkTrail(after), step)?.schema.fields.map((each) => [each.id, each.forUseOnly])).toEqual([
    ['kilos', false],
    ['id', false],
    ['region', false],
    ['flower', false],
    ['picked', false],
    ['honey', true],
  ]);
  expect(applyEdits(after, invertEdits(edits))).toEqual(trail.definition);
  const asTheyCome = arrangeViewEdits(() => `m${count++}`, trail, 'h', {
    sort: [],
    shown: ['id', 'region', 'flower', 'picked', 'kilos', 'honey'],
  });
  expect(asTheyCome.edits[0]).toMatchObject({ step: { fields: null } });
});
