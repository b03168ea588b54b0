import type { Binding, Definition, EveryGroup, GroupPart, Parameter, SheetEntry, Step, SummariseStep } from '../src';
import {
  answered,
  beginQuestion,
  bindValues,
  checkedStep,
  checkTrail,
  countsFrom,
  duckdb,
  inspectedRows,
  outputColumns,
  planCounts,
  planRows,
  ProblemError,
  relationAfter,
  stageGroup,
  writeValue,
} from '../src';
import { harvests, rows, told, trailOf, unpivot } from './support/apiaries';
import { criteria } from './support/harvests';
import { rowsIn } from './support/relations';

/** Summaries beyond plain groups: groups without rows, joined texts, what does not add up, and what is asked of groups. */

const nothing = bindValues([], {}, 0n);
const text = (written: string) => ({ text: written, refs: [] });
const value = (
  name: string,
  aggregate: SummariseStep['values'][number]['aggregate'],
  of = '',
  more: Partial<SummariseStep['values'][number]> = {},
) => ({
  id: name,
  name,
  aggregate,
  expression: text(of),
  among: text(''),
  order: text(''),
  ...more,
});
const key = (name: string, of = name) => ({ id: `k-${name}`, name, expression: text(of) });
const summarise = (given: Partial<SummariseStep>): SummariseStep => ({
  id: 'z',
  kind: 'summarise',
  name: '',
  off: false,
  inputs: ['h'],
  keys: [],
  values: [],
  ...given,
});
const every = (filledWith: EveryGroup['filledWith'], ...parts: readonly GroupPart[]): EveryGroup => ({ parts, filledWith });
const days = (since: string, until: string): GroupPart => ({
  from: 'days',
  key: 'k-month',
  since: text(`date '${since}'`),
  until: text(`date '${until}'`),
});
const monthly = (of: EveryGroup) =>
  summarise({
    keys: [key('region'), key('month', 'start_of_month(picked)')],
    values: [value('kilos', 'sum', 'kilos'), value('count', 'rows'), value('average', 'average', 'kilos')],
    every: of,
  });
const codes = (definition: Definition) => checkTrail(definition).problems.map((each) => each.code);

/** What the relation of a step gives where it runs, which has to be what core says. */
function ran(definition: Definition, binding: Binding): readonly string[] {
  const trail = checkTrail(definition);
  const columns = outputColumns(trail, definition.result ?? '');
  const plan = planRows(relationAfter(trail, definition.result ?? '', binding), columns, undefined, () => duckdb);
  const leaves = (leaf: { readonly node: string; readonly columns: readonly { readonly id: string }[] }) =>
    rows.map((row) => new Map(leaf.columns.map(({ id }) => [id, row.get(id) ?? null])));
  const found = rowsIn(plan.stages[0]?.relation as never, leaves as never, binding);
  return found
    .map((row) =>
      columns.map(({ id, type }) => ((row.get(id) ?? null) === null ? 'null' : writeValue(type, row.get(id) as never))).join(' '),
    )
    .toSorted();
}

describe('groups without rows', () => {
  test('every month of a span stands for every region there is, with figures as said', () => {
    const given = trailOf(monthly(every('0', days('2025-04-10', '2025-06-01'))));
    const expected = [
      'Fennick 2025-04-01 15.50 2 7.750000',
      'Fennick 2025-05-01 0.00 0 null',
      'Fennick 2025-06-01 0.00 0 null',
      'Orrin Vale 2025-04-01 0.00 0 null',
      'Orrin Vale 2025-05-01 0.00 0 null',
      'Orrin Vale 2025-06-01 25.50 2 12.750000',
      'null 2025-04-01 0.00 0 null',
      'null 2025-05-01 0.00 0 null',
      'null 2025-06-01 null 1 null',
    ];
    expect(told(given, nothing, 'region', 'month', 'kilos', 'count', 'average').toSorted()).toEqual(expected);
    expect(ran(given, nothing)).toEqual(expected);
  });

  test('a key that stands alone gives every value there is, combined with all others', () => {
    const crossed = summarise({
      keys: [key('region'), key('flower')],
      values: [value('count', 'rows')],
      every: every('null', { from: 'rows', keys: ['k-flower'] }),
    });
    // Three regions and four flowers, null among both.
    expect(told(trailOf(crossed), nothing, 'region', 'flower', 'count')).toHaveLength(12);
    expect(ran(trailOf(crossed), nothing)).toEqual(told(trailOf(crossed), nothing, 'region', 'flower', 'count').toSorted());
  });

  test('groups of rows outside the span stay', () => {
    const given = trailOf(monthly(every('null', days('2025-05-01', '2025-05-31'))));
    expect(told(given, nothing, 'month').filter((each) => each === '2025-04-01')).toHaveLength(1);
  });

  const period: Parameter = {
    id: 'p',
    name: 'period',
    type: 'date',
    takes: 'range',
    leftBlank: 'condition is off',
    startsAs: [],
    hint: '',
  };
  const ranged: Definition = {
    ...trailOf(monthly(every('null', { from: 'range', key: 'k-month', parameter: 'p' }))),
    parameters: [period],
  };

  test('a parameter says the span, closed at both ends, or it is said which is missing', () => {
    const bound = (...ends: readonly string[]) => bindValues([period], { p: ends }, 0n);
    expect(told(ranged, bound('2025-04-30', '2025-05-01'), 'month').filter((each) => each === '2025-05-01')).toHaveLength(3);
    const refusal = (binding: Binding) => {
      try {
        relationAfter(checkTrail(ranged), 'z', binding);
      } catch (error) {
        return (error as ProblemError).problems.map(({ code, message }) => [code, message]);
      }
      return [];
    };
    expect(refusal(bound('2025-04-01', ''))).toEqual([['span-open', 'The span of month has no last day, so its groups cannot be told.']]);
    expect(refusal(bound())[0]?.[0]).toBe('span-open');
    expect(refusal(bound('0001-01-01', '9999-12-31'))[0]?.[0]).toBe('span-long');
  });

  test('values of another step make groups, so that what has no rows is there', () => {
    const table: Step = {
      ...harvests,
      id: 'r',
      fields: harvests.fields.map((each) => ({ ...each, id: `r-${each.id}` })),
      taken: ['r-flower'],
      keys: [],
    };
    const step = summarise({
      inputs: ['h', 'r'],
      keys: [key('flower')],
      values: [value('count', 'rows')],
      every: every('0', { from: 'step', key: 'k-flower', slot: 1, field: 'r-flower' }),
    });
    const given: Definition = {
      ...trailOf(),
      steps: [harvests, table, criteria('c', 'h', "flower = 'lime'"), { ...step, inputs: ['c', 'r'] }],
      result: 'z',
    };
    expect(told(given, nothing, 'flower', 'count').toSorted()).toEqual(['heather 0', 'lime 2', 'rape 0']);
  });

  test.each([
    [
      'a span of texts',
      every('null', { from: 'days', key: 'k-region', since: text("date '2025-01-01'"), until: text("date '2025-01-02'") }),
      'group-days-unsuited',
    ],
    [
      'a span without an end',
      every('null', { from: 'days', key: 'k-month', since: text("date '2025-01-01'"), until: text('') }),
      'group-end-missing',
    ],
    [
      'a span until a number',
      every('null', { from: 'days', key: 'k-month', since: text("date '2025-01-01'"), until: text('4') }),
      'group-end-unsuited',
    ],
    ['a parameter that is none', every('null', { from: 'range', key: 'k-month', parameter: 'none' }), 'group-range-missing'],
    ['values of no field', every('null', { from: 'step', key: 'k-region', slot: 1, field: '' }), 'group-values-missing'],
  ])('%s is told in place', (_words, of, code) => {
    expect(codes(trailOf(monthly(of)))).toContain(code);
  });
});

test('joined texts stand in their own order or in another one, with what is said between', () => {
  const joined = summarise({
    values: [
      value('flowers', 'joined', 'flower'),
      value('late', 'joined', 'flower', { order: text('0 - id'), separator: ' / ' }),
      value('ids', 'joined', 'id', { among: text('kilos > 6') }),
    ],
  });
  expect(told(trailOf(joined), nothing, 'flowers', 'late', 'ids')).toEqual(['heather, lime, lime, rape rape / lime / heather / lime 1, 3']);
  expect(ran(trailOf(joined), nothing)).toEqual(told(trailOf(joined), nothing, 'flowers', 'late', 'ids'));
});

test('a field it groups by that was removed upstream stops the summary at that key, and everything typed is kept', () => {
  const whole = trailOf(summarise({ keys: [key('region'), key('flower')], values: [value('kilos', 'sum', 'kilos')] }));
  const steps = whole.steps.map((each) =>
    each.kind === 'table'
      ? { ...each, fields: each.fields.filter(({ id }) => id !== 'region'), taken: each.taken.filter((id) => id !== 'region') }
      : each,
  );
  const trail = checkTrail({ ...whole, steps });
  const [found, ...others] = trail.problems.filter(({ severity }) => severity === 'error');
  expect(others).toEqual([]);
  expect([found?.message.includes('region'), found?.place.field]).toEqual([true, key('region').id]);
  expect(trail.definition.steps.at(-1)).toEqual(whole.steps.at(-1));
});

describe('what a sum does not say', () => {
  const turned = unpivot({ values: [{ id: 'of', name: 'of', as: null }] });
  const summed = (keys: SummariseStep['keys'], more: Partial<SummariseStep['values'][number]> = {}) =>
    trailOf(turned, summarise({ inputs: ['u'], keys, values: [value('kilos', 'sum', 'kilos', more)] }));

  test('a sum over several groupings is a finding, and none within one', () => {
    expect(codes(summed([]))).toContain('sum-over-groupings');
    expect(codes(summed([key('grouping')]))).not.toContain('sum-over-groupings');
    expect(codes(summed([], { among: text("grouping = 'region'") }))).not.toContain('sum-over-groupings');
    const field = checkedStep(checkTrail(summed([key('grouping')])), 'z')?.schema.fields.find((each) => each.name === 'kilos');
    expect(field).toMatchObject({ addsUp: 'within one grouping', within: 'k-grouping' });
  });

  test('rows counted within groupings count each record once in each of them', () => {
    const counted = (keys: SummariseStep['keys'], definition = turned) =>
      checkedStep(
        checkTrail(trailOf(definition, summarise({ inputs: ['u'], keys, values: [value('n', 'rows', '')] }))),
        'z',
      )?.schema.fields.at(-1);
    expect(counted([key('grouping')])).toMatchObject({ addsUp: 'within one grouping', within: 'k-grouping' });
    expect(counted([])?.addsUp).toBeUndefined();
    const once = unpivot({ values: [{ id: 'of', name: 'of', as: null }], lines: [{ id: 'l1', word: 'region', from: ['region'] }] });
    expect(counted([key('grouping')], once)?.addsUp).toBeUndefined();
  });

  test('what is reckoned of a number that is no measure says so, counts of it do not', () => {
    const told = (aggregate: SummariseStep['values'][number]['aggregate'], sheet: readonly SheetEntry[] = []) =>
      codes({ ...trailOf(summarise({ keys: [key('region')], values: [value('of', aggregate, 'kilos')] })), sheet });
    const asKey: readonly SheetEntry[] = [{ field: 'kilos', role: 'key' }];
    for (const aggregate of ['sum', 'average', 'median'] as const) {
      expect(told(aggregate, asKey)).toContain('measured-no-measure');
      expect(told(aggregate)).not.toContain('measured-no-measure');
    }
    expect(told('distinct count', asKey)).not.toContain('measured-no-measure');
    expect(told('greatest', asKey)).not.toContain('measured-no-measure');
  });

  test('neither averages nor what adds up over everything but dates are added up unseen', () => {
    const averages = summarise({ keys: [key('region')], values: [value('average', 'average', 'kilos')] });
    const again = summarise({ id: 'y', inputs: ['z'], values: [value('sum', 'sum', 'average')] });
    expect(codes(trailOf(averages, again))).toContain('sum-over-nothing');
    const sheet: readonly SheetEntry[] = [{ field: 'kilos', addsUp: 'over everything but dates, then last', lastBy: 'picked' }];
    const sums = (keys: SummariseStep['keys']) => ({ ...trailOf(summarise({ keys, values: [value('kilos', 'sum', 'kilos')] })), sheet });
    expect(codes(sums([key('region')]))).toContain('sum-over-dates');
    expect(codes(sums([key('picked')]))).not.toContain('sum-over-dates');
  });

  test('an average of averages in the proof is told, the average of rows is not', () => {
    const kept = (of: Definition, field: string, aggregate: 'average' | 'greatest'): Definition => ({
      ...of,
      proof: { ...of.proof, totals: [{ field, aggregate }] },
    });
    const averages = trailOf(
      summarise({ keys: [key('region')], values: [value('average', 'average', 'kilos'), value('most', 'greatest', 'kilos')] }),
    );
    expect(codes(kept(averages, 'average', 'average'))).toContain('average-of-averages');
    expect(codes(kept(averages, 'average', 'greatest'))).not.toContain('average-of-averages');
    expect(codes(kept(averages, 'most', 'average'))).not.toContain('average-of-averages');
  });
});

test('criteria behind a summary are asked of its rows where they speak of what it groups by, and nowhere else', () => {
  const summed = summarise({ keys: [key('region')], values: [value('kilos', 'sum', 'kilos')] });
  const plan = (written: string) => {
    const trail = checkTrail(trailOf(summed, criteria('c', 'z', written)));
    return planRows(relationAfter(trail, 'c', nothing), outputColumns(trail, 'c'), undefined, () => duckdb).stages[0]?.relation;
  };
  const path = (of: unknown): string => {
    const { node, input } = of as { node: string; input?: unknown };
    return input === undefined ? node : `${node} ${path(input)}`;
  };
  expect(path(plan("region = 'Fennick'"))).toMatch(/group .*filter table$/);
  expect(path(plan('kilos > 6'))).toMatch(/filter .*group/);
  expect(path(plan("region = 'Fennick'"))).not.toMatch(/filter .*group/);
});

test('rows whose figures cannot be computed are counted at the summary, by what fails in them', () => {
  const given = trailOf(summarise({ keys: [key('region')], values: [value('part', 'sum', 'kilos / (kilos - 5.5)')] }));
  const trail = checkTrail(given);
  const plan = planCounts(trail, 'z', nothing);
  const leaves = (leaf: { readonly columns: readonly { readonly id: string }[] }) =>
    rows.map((row) => new Map(leaf.columns.map(({ id }) => [id, row.get(id) ?? null])));
  const small = (relation: unknown) =>
    rowsIn(relation as never, leaves as never, nothing).map((row) =>
      [...row.values()].map((each) => (each === null ? null : String((each as { digits: bigint }).digits))),
    );
  const counts = countsFrom(
    plan,
    plan.segments.map((segment) => small(segment.relation).map((row) => stageGroup(segment, row))),
    [],
    plan.failed.map((each) => small(each.relation)[0] ?? []),
  );
  expect(counts.find((each) => each.step === 'z')).toMatchObject({ rows: 3n, failed: 2n, fields: [{ field: 'part', failed: 2n }] });
});

test('from a group to its rows, null groups too', () => {
  const trail = checkTrail(trailOf(summarise({ keys: [key('region'), key('month', 'start_of_month(picked)')] })));
  const of = (...keys: readonly (string | null)[]) => {
    const { relation } = inspectedRows(trail, 'z', { kind: 'group', keys }, nothing);
    const leaves = (leaf: { readonly columns: readonly { readonly id: string }[] }) =>
      rows.map((row) => new Map(leaf.columns.map(({ id }) => [id, row.get(id) ?? null])));
    return rowsIn(relation, leaves as never, nothing).map((row) => String((row.get('id') as { digits: bigint }).digits));
  };
  expect([of('Orrin Vale', '2025-06-01'), of(null, '2025-06-01'), of('Fennick', '2025-05-01')]).toEqual([['3', '4'], ['5'], []]);
  expect(() => inspectedRows(trail, 'z', { kind: 'group', keys: ['Fennick'] }, nothing)).toThrow(ProblemError);
});

describe('what is asked of a summary', () => {
  const ask = (given: Definition, question: Parameters<typeof beginQuestion>[1]) =>
    answered(beginQuestion({ trail: checkTrail(given), binding: nothing, others: new Map() }, question), ({ relation, columns }) => {
      const leaves = (leaf: { readonly columns: readonly { readonly id: string }[] }) =>
        rows.map((row) => new Map(leaf.columns.map(({ id }) => [id, row.get(id) ?? null])));
      return Promise.resolve(
        rowsIn(relation, leaves as never, nothing).map((row) =>
          columns.map(({ id, type }) => ((row.get(id) ?? null) === null ? null : writeValue(type, row.get(id) as never))),
        ),
      );
    });

  test('counting is three things, each with its figure', async () => {
    const given = trailOf(summarise({ values: [value('n', 'rows')] }));
    expect(await ask(given, { kind: 'counting', step: 'z', of: text('kilos'), among: text('') })).toEqual({
      rows: '5',
      filled: '4',
      different: '3',
    });
    expect(await ask(given, { kind: 'counting', step: 'z', of: text('flower'), among: text('kilos > 5.5') })).toEqual({
      rows: '2',
      filled: '2',
      different: '1',
    });
    await expect(ask(given, { kind: 'counting', step: 'z', of: text('nothing_such'), among: text('') })).rejects.toThrow(ProblemError);
  });

  test('a key lies within another where each of its values has one of the other, as the data have it', async () => {
    const keys = [key('id'), key('region'), key('flower')];
    const found = await ask(trailOf(summarise({ keys })), { kind: 'nesting', step: 'z' });
    expect(found).toEqual([
      { inner: 'k-id', outer: 'k-region' },
      { inner: 'k-id', outer: 'k-flower' },
    ]);
  });

  test('types that differ are told with what each would lose', async () => {
    const table: Step = {
      ...harvests,
      id: 'r',
      fields: harvests.fields.map((each) => ({ ...each, id: `r-${each.id}` })),
      taken: ['r-flower'],
      keys: [],
    };
    const union: Step = {
      id: 'n',
      kind: 'union',
      name: '',
      off: false,
      inputs: ['h', 'r'],
      once: false,
      fields: [{ id: 'f', name: 'mixed', from: ['kilos', 'r-flower'], as: null }],
      source: null,
    };
    const given: Definition = { ...trailOf(), steps: [harvests, table, union], result: 'n' };
    const read = ({ columns }: { readonly columns: readonly { readonly id: string }[] }) =>
      rows.map((row) => new Map(columns.map(({ id }) => [id, row.get(id.replace('r-', '')) ?? null])));
    const found = await answered(
      beginQuestion({ trail: checkTrail(given), binding: nothing, others: new Map() }, { kind: 'conversions', step: 'n', field: 'f' }),
      ({ relation, columns }) =>
        Promise.resolve(
          rowsIn(relation, read as never, nothing).map((row) =>
            columns.map(({ id }) => String((row.get(id) as { digits: bigint }).digits)),
          ),
        ),
    );
    expect(found.map(({ type, lost }) => [type.kind, lost])).toEqual([
      ['decimal', ['0', '4']],
      ['text', ['0', '0']],
    ]);
  });
});
