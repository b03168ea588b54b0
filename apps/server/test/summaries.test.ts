import type { SummariseStep, SummaryAggregate } from '@cendra/core';
import { addStepAfter } from '@cendra/core';
import type { DatasetBody, Person, ProblemBody } from './support/cendra';
import { Cendra, rowsOf, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit } from './support/datasets';

/** Summaries over HTTP and the demo's own database: every figure is what SQL of the test's own gives. */

let cendra: Cendra;
let analyst: Person;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
});
afterAll(() => cendra.stop());

const text = (written: string) => ({ text: written, refs: [] });
interface Told {
  readonly aggregate: SummaryAggregate;
  readonly of?: string;
  readonly among?: string;
  readonly by?: string;
}

async function summary(keys: readonly string[], values: readonly Told[]): Promise<DatasetBody> {
  const dataset = await datasetOf(analyst, await demoSource(analyst), 'harvests');
  const after = dataset.definition.steps[0]?.id ?? '';
  const step: SummariseStep = {
    id: unique('step'),
    kind: 'summarise',
    name: '',
    off: false,
    inputs: [after],
    keys: keys.map((each, at) => ({ id: `k${at}`, name: `k${at}`, expression: text(each) })),
    values: values.map(({ aggregate, of = '', among = '', by = '' }, at) => ({
      id: `v${at}`,
      name: `v${at}`,
      aggregate,
      expression: text(of),
      among: text(among),
      order: text(by),
    })),
  };
  return edit(analyst, dataset, addStepAfter(dataset.definition, after, step));
}

/** Rows as texts without their numbers, in an order of their own. */
const sorted = (rows: readonly (readonly unknown[])[]) => rows.map((each) => JSON.stringify(each)).toSorted();

test('every figure of every region-like group is what SQL gives, null groups and lone values included', async () => {
  const dataset = await summary(
    ['floral_source', 'extract(year from picked_on)'],
    [
      { aggregate: 'rows' },
      { aggregate: 'count', of: 'kilos' },
      { aggregate: 'distinct count', of: 'grade' },
      { aggregate: 'sum', of: 'kilos' },
      { aggregate: 'average', of: 'kilos' },
      { aggregate: 'median', of: 'kilos' },
      { aggregate: 'least', of: 'picked_on' },
      { aggregate: 'greatest', of: 'batch' },
      { aggregate: 'first', of: 'batch', by: 'id' },
      { aggregate: 'last', of: 'kilos', by: 'id' },
      { aggregate: 'share', of: 'kilos >= 10' },
      { aggregate: 'sum', of: 'kilos', among: "grade = 'A'" },
    ],
  );
  const done = await run(analyst, dataset, 'full');
  const rows = (await rowsOf(analyst, done.result?.id ?? '', 'offset=0&limit=100')).map((each) => each.slice(1));
  const told = await withSuperuser('cooperative', async (client) => {
    const { rows: found } = await client.query<Record<string, string | null>>({
      text: `select floral_source, extract(year from picked_on)::bigint y, count(*), count(kilos) c, count(distinct grade) d, sum(kilos)::numeric(38,2) s,
        round(sum(kilos) / nullif(count(kilos), 0), 6) a, round(percentile_cont(0.5) within group (order by kilos)::numeric, 6) m, min(picked_on) l,
        max(batch collate "C") g, (array_agg(batch order by id))[1] f, (array_agg(kilos order by id desc))[1] la,
        round(count(*) filter (where kilos >= 10)::numeric / count(*), 6) sh, sum(kilos) filter (where grade = 'A')::numeric(38,2) sa
        from coop.harvests group by 1, 2`,
      rowMode: 'array',
    } as never);
    return found as unknown as readonly (string | null)[][];
  });
  expect(sorted(rows)).toEqual(sorted(told));
  expect(done.counts?.at(-1)?.rows).toBe(String(told.length));
});

test('figures of all rows are one row, and a summary of a summary adds up to the same', async () => {
  const all = await summary([], [{ aggregate: 'rows' }, { aggregate: 'sum', of: 'kilos' }]);
  const whole = await rowsOf(analyst, (await run(analyst, all, 'head')).result?.id ?? '', 'offset=0&limit=2');
  expect(whole).toHaveLength(1);
  const by = await summary(['grade'], [{ aggregate: 'rows' }, { aggregate: 'sum', of: 'kilos' }]);
  const after = by.definition.steps.at(-1)?.id ?? '';
  const again: SummariseStep = {
    id: unique('step'),
    kind: 'summarise',
    name: '',
    off: false,
    inputs: [after],
    keys: [],
    values: [
      { id: 'a', name: 'a', aggregate: 'sum', expression: text('v0'), among: text(''), order: text('') },
      { id: 'b', name: 'b', aggregate: 'sum', expression: text('v1'), among: text(''), order: text('') },
    ],
  };
  const twice = await edit(analyst, by, addStepAfter(by.definition, after, again));
  const [row] = await rowsOf(analyst, (await run(analyst, twice, 'head')).result?.id ?? '', 'offset=0&limit=2');
  expect(row?.slice(1)).toEqual(whole[0]?.slice(1));
});

test.each([
  ['a figure there is none of', ['grade'], [{ aggregate: 'sum', of: 'batch' }], 'aggregate-unsuited'],
  ['a first that is told by nothing', ['grade'], [{ aggregate: 'first', of: 'batch' }], 'order-missing'],
  ['a group by nothing', [''], [], 'key-missing'],
  ['nothing at all', [], [], 'summary-empty'],
  ['a week of a text', ['start_of_week(batch)'], [], 'type-mixed'],
  ['a field that is gone', ['nothing_such'], [], 'field-unknown'],
] as const)('%s is answered in place', async (_what, keys, values, code) => {
  const dataset = await summary(keys, values);
  const refused = await analyst.ask<ProblemBody>('POST', '/runs', {
    dataset: dataset.id,
    revision: dataset.revision,
    step: dataset.definition.steps.at(-1)?.id,
    size: 'head',
    slot: 'rows',
    values: {},
  });
  expect([refused.status, refused.body.problems.map((each) => each.code)]).toEqual([422, expect.arrayContaining([code])]);
});

test('two hundred figures are told at once', async () => {
  const dataset = await summary(
    ['grade'],
    Array.from({ length: 200 }, (_each, at) => ({
      aggregate: at % 2 === 0 ? ('sum' as const) : ('average' as const),
      of: `kilos + ${at}`,
    })),
  );
  const done = await run(analyst, dataset, 'head');
  expect(done.result?.columns).toHaveLength(201);
  expect(done.result?.rows).toBe('3');
});
