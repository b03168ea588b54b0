import type { ArrangeStep, Definition, Edit, Parameter, Step, SummariseStep, UnpivotStep } from '@cendra/core';
import { addParameter, addStepAfter } from '@cendra/core';
import type { DatasetBody, Person } from './support/cendra';
import { Cendra, rowsOf, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, fieldOf } from './support/datasets';

/** Fields turned into rows, groups without rows, and rows arranged, over HTTP: what SQL of the test's own gives. */

let cendra: Cendra;
let analyst: Person;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
});
afterAll(() => cendra.stop());

const text = (written: string) => ({ text: written, refs: [] });
const lastOf = ({ steps }: Definition) => steps.at(-1)?.id ?? '';

/** A dataset of harvests with more steps behind, each made from the definition before it. */
async function harvests(...steps: readonly ((definition: Definition, after: string) => Step)[]): Promise<DatasetBody> {
  let dataset = await datasetOf(analyst, await demoSource(analyst), 'harvests');
  for (const make of steps) {
    const { definition } = dataset;
    const after = lastOf(definition);
    dataset = await edit(analyst, dataset, addStepAfter(definition, after, make(definition, after)));
  }
  return dataset;
}

async function rowsAfter(dataset: DatasetBody, size: 'head' | 'full' = 'full', values: Record<string, string[]> = {}) {
  const done = await run(analyst, dataset, size, values);
  const rows = await rowsOf(analyst, done.result?.id ?? '', 'offset=0&limit=500');
  return { done, rows: rows.map((each) => each.slice(1) as (string | null)[]) };
}

const inDemo = (sql: string): Promise<readonly (readonly (string | null)[])[]> =>
  withSuperuser('cooperative', async (client) => {
    const { rows } = await client.query({ text: sql, rowMode: 'array' } as never);
    return (rows as unknown as readonly (readonly unknown[])[]).map((row) => row.map((each) => (each === null ? null : String(each))));
  });
const sorted = (rows: readonly (readonly unknown[])[]) => rows.map((each) => JSON.stringify(each)).toSorted();

const unpivot =
  (lines: readonly (readonly [string, string])[], nulls = true) =>
  (definition: Definition, after: string): UnpivotStep => ({
    id: unique('step'),
    kind: 'unpivot',
    name: '',
    off: false,
    inputs: [after],
    label: { id: unique('field'), name: 'grouping' },
    values: [{ id: unique('field'), name: 'of', as: null }],
    lines: lines.map(([word, column]) => ({ id: unique('line'), word, from: [fieldOf(definition, column)] })),
    nulls,
  });

const summarise =
  (
    keys: readonly (readonly [string, string])[],
    figures: readonly (readonly [string, SummariseStep['values'][number]['aggregate'], string])[],
    every?: SummariseStep['every'],
  ) =>
  (_definition: Definition, after: string): SummariseStep => ({
    id: unique('step'),
    kind: 'summarise',
    name: '',
    off: false,
    inputs: [after],
    keys: keys.map(([name, of]) => ({ id: `k-${name}`, name, expression: text(of) })),
    values: figures.map(([name, aggregate, of]) => ({
      id: `v-${name}`,
      name,
      aggregate,
      expression: text(of),
      among: text(''),
      order: text(''),
    })),
    ...(every ? { every } : {}),
  });

const arrange =
  (given: (definition: Definition) => Partial<ArrangeStep>) =>
  (definition: Definition, after: string): ArrangeStep => ({
    id: unique('step'),
    kind: 'arrange',
    name: '',
    off: false,
    inputs: [after],
    sort: [],
    first: null,
    distinct: null,
    fields: null,
    ...given(definition),
  });
const by = (field: string, descending = false, nullsFirst = false) => ({ id: unique('sort'), field, descending, nullsFirst });

test('a harvest is counted in two groups at once, and the sums are those of each grouping', async () => {
  const dataset = await harvests(
    unpivot([
      ['grade', 'grade'],
      ['floral source', 'floral_source'],
    ]),
    summarise(
      [
        ['grouping', 'grouping'],
        ['of', 'of'],
      ],
      [
        ['kilos', 'sum', 'kilos'],
        ['harvests', 'rows', ''],
      ],
    ),
  );
  const { rows } = await rowsAfter(dataset);
  const expected = await inDemo(`
    select 'grade', grade::text, sum(kilos)::numeric(38,2), count(*) from coop.harvests group by 2
    union all select 'floral source', floral_source, sum(kilos)::numeric(38,2), count(*) from coop.harvests group by 2`);
  expect(sorted(rows)).toEqual(sorted(expected));
});

test('rows without a value are left out where that is said, and counts on the trail agree', async () => {
  const dataset = await harvests(
    unpivot(
      [
        ['a', 'floral_source'],
        ['b', 'apiary_code'],
      ],
      false,
    ),
  );
  const { done } = await rowsAfter(dataset, 'head');
  const [[expected] = []] = await inDemo('select count(floral_source) + count(apiary_code) from coop.harvests');
  expect(done.counts?.at(-1)?.rows).toBe(expected);
});

test('region by month stands complete, the region without members included, as the cross join of SQL has it', async () => {
  const source = await demoSource(analyst);
  const members = await datasetOf(analyst, source, 'members');
  const regions = await datasetOf(analyst, source, 'districts', 'coop', ['region_code']);
  const [table] = regions.definition.steps;
  const after = lastOf(members.definition);
  if (table?.kind !== 'table') throw new Error('districts are a table');
  const add: Edit = { kind: 'add step', step: table, at: { after, before: null }, heirs: [] };
  const both = await edit(analyst, members, add);
  const step: SummariseStep = {
    ...summarise(
      [
        ['region', 'substring(district_code from 1 for 2)'],
        ['month', 'start_of_month(joined_on)'],
      ],
      [['members', 'rows', '']],
      {
        parts: [
          { from: 'step', key: 'k-region', slot: 1, field: fieldOf({ ...regions.definition }, 'region_code') },
          { from: 'days', key: 'k-month', since: text("date '2001-01-01'"), until: text("date '2001-06-30'") },
        ],
        filledWith: '0',
      },
    )(both.definition, after),
    inputs: [after, table.id],
  };
  const given = await edit(analyst, both, addStepAfter(both.definition, table.id, step), { kind: 'set result', from: after, to: step.id });
  const { rows } = await rowsAfter(given);
  const expected = await inDemo(`
    with m as (select left(district_code, 2) r, date_trunc('month', joined_on)::date mo from coop.members),
    combined as (select r, mo from (select distinct region_code r from coop.districts) d, generate_series(date '2001-01-01', '2001-06-01', '1 month') mo)
    select r, mo::date::text, count(*) filter (where here) from (
      select r, mo::date, false here from combined union all select r, mo, true from m) u group by 1, 2`);
  expect(sorted(rows)).toEqual(sorted(expected));
  expect(expected.filter((each) => each[0] === 'SM' && each[2] === '0').length).toBeGreaterThan(0);
});

test('rows come in the order of the step, nulls first where that is said, in the dataset\u2019s language, and are taken away so', async () => {
  const dataset = await harvests(
    arrange((definition) => ({
      sort: [by(fieldOf(definition, 'floral_source'), false, true), by(fieldOf(definition, 'kilos'), true), by(fieldOf(definition, 'id'))],
      fields: ['floral_source', 'kilos', 'id'].map((column) => ({ field: fieldOf(definition, column), forUseOnly: column === 'id' })),
    })),
  );
  const { done, rows } = await rowsAfter(dataset);
  const expected = await inDemo(
    'select floral_source, kilos from coop.harvests order by floral_source nulls first, kilos desc nulls last, id limit 500',
  );
  expect(rows).toEqual(expected);
  expect(done.result?.columns.map((each) => each.name)).toEqual(['floral_source', 'kilos']);
  const csv = (await analyst.ask('GET', `/results/${done.result?.id ?? ''}/file?format=csv`)).text;
  const told = (line: string) => line.split(',').map((each) => (each === '' ? null : each));
  expect(csv.trim().split(/\r?\n/u).slice(1, 501).map(told)).toEqual(expected);
  // The first rows of a head run are the first by the order.
  const head = await rowsAfter(dataset, 'head');
  expect(head.rows.map((each) => each[1])).toEqual(expected.map((each) => each[1]));
});

test('texts stand as a language has them: code points decide nothing that is only shown', async () => {
  const names = ['Zoe', 'Äsche', 'alder', 'Birch', 'birch'];
  await withSuperuser('cooperative', (client) =>
    client.query(`create table coop.lettered as select unnest(array[${names.map((each) => `'${each}'`).join(', ')}]) as name`),
  );
  await withSuperuser('cooperative', (client) => client.query('grant select on coop.lettered to cendra_read'));
  try {
    const table = await datasetOf(analyst, await demoSource(analyst), 'lettered');
    const after = lastOf(table.definition);
    const step = arrange((definition) => ({ sort: [by(fieldOf(definition, 'name'))] }))(table.definition, after);
    const english = await edit(analyst, table, addStepAfter(table.definition, after, step));
    expect((await rowsAfter(english)).rows.flat()).toEqual(['alder', 'Äsche', 'birch', 'Birch', 'Zoe']);
    const swedish = await edit(analyst, english, { kind: 'set dataset', property: 'language', from: undefined, to: 'sv' });
    expect((await rowsAfter(swedish)).rows.flat()).toEqual(['alder', 'birch', 'Birch', 'Zoe', 'Äsche']);
  } finally {
    await withSuperuser('cooperative', (client) => client.query('drop table coop.lettered'));
  }
});

test('so many of each group, as a parameter says; blank keeps all, below one is refused by name', async () => {
  const most: Parameter = {
    id: 'most',
    name: 'most',
    type: 'whole number',
    takes: 'one',
    leftBlank: 'condition is off',
    startsAs: ['3'],
    hint: '',
  };
  const dataset = await harvests(
    arrange((definition) => ({
      sort: [by(fieldOf(definition, 'kilos'), true), by(fieldOf(definition, 'id'))],
      first: { count: text(':most'), ties: false, per: [fieldOf(definition, 'grade')] },
    })),
  );
  const asked = await edit(analyst, dataset, addParameter(dataset.definition, most));
  const { rows } = await rowsAfter(asked, 'full', { most: ['2'] });
  const expected = await inDemo(`
    select id from (select id, row_number() over (partition by grade order by kilos desc nulls last, id) n from coop.harvests) h where n <= 2`);
  expect(rows.map((each) => each[0]).toSorted()).toEqual(expected.flat().toSorted());
  expect((await run(analyst, asked, 'head', { most: [''] })).counts?.at(-1)?.rows).toBe('12430');
  const refused = await run(analyst, asked, 'head', { most: ['0'] });
  expect([refused.state, refused.problems?.map((each) => each.code)]).toEqual(['failed', ['count-below-one']]);
});

interface ProofBody {
  readonly key: string;
  readonly columns: readonly { readonly id: string }[];
}

test('group totals and the grand total of a proof are those a summary gives', async () => {
  const figures = [['kilos', 'sum', 'kilos'] as const];
  const groups = await rowsAfter(await harvests(summarise([['grade', 'grade']], figures)));
  const all = await rowsAfter(await harvests(summarise([], figures)));
  const plain = await harvests();
  const [grade, kilos] = [fieldOf(plain.definition, 'grade'), fieldOf(plain.definition, 'kilos')];
  const { levels, totals } = plain.definition.proof;
  const dataset = await edit(
    analyst,
    plain,
    { kind: 'set proof', property: 'levels', from: levels, to: [{ field: grade, descending: false, subtotal: true }] },
    { kind: 'set proof', property: 'totals', from: totals, to: [{ field: kilos, aggregate: 'sum' }] },
    { kind: 'set proof', property: 'rows', from: true, to: false },
  );
  const result = (await run(analyst, dataset, 'full')).result?.id ?? '';
  const proof = await analyst.post<ProofBody>(`/results/${result}/proofs`, { dataset: dataset.id, revision: dataset.revision });
  const lines = await analyst.get<(string | null)[][]>(`/results/${result}/proofs/${proof.key}/lines?offset=0&limit=50`);
  const at = (line: (string | null)[], id: string) => line[proof.columns.findIndex((each) => each.id === id) + 1] ?? null;
  const told = lines.flatMap((line) =>
    at(line, 'total_0') === null ? [] : [[at(line, 'line_level'), at(line, 'key_1'), at(line, 'total_0')]],
  );
  expect(sorted(told)).toEqual(sorted([...groups.rows.map(([by, sum]) => ['1', by, sum]), ['0', null, all.rows[0]?.[0]]]));
});

test('fifty inputs stand on top of one another, and one more is no union', async () => {
  const dataset = await datasetOf(analyst, await demoSource(analyst), 'regions');
  const [table] = dataset.definition.steps;
  if (table?.kind !== 'table') throw new Error('a dataset begins with its table');
  const union = (inputs: number): Step => ({
    id: unique('step'),
    kind: 'union',
    name: '',
    off: false,
    inputs: Array.from({ length: inputs }, () => table.id),
    once: false,
    fields: table.fields.map(({ id, column }) => ({
      id: unique('field'),
      name: column,
      from: Array.from({ length: inputs }, () => id),
      as: null,
    })),
    source: null,
  });
  const fifty = await edit(analyst, dataset, addStepAfter(dataset.definition, table.id, union(50)));
  expect((await run(analyst, fifty, 'head')).counts?.at(-1)?.rows).toBe('200');
  const sent = { editId: unique('edit'), baseRevision: fifty.revision, edits: [addStepAfter(fifty.definition, table.id, union(51))] };
  expect((await analyst.ask('POST', `/datasets/${dataset.id}/edits`, sent)).status).toBe(400);
});

test('a value typed where an input lacks a field stands in its rows only, and is told from', async () => {
  const dataset = await datasetOf(analyst, await demoSource(analyst), 'regions');
  const [table] = dataset.definition.steps;
  if (table?.kind !== 'table') throw new Error('a dataset begins with its table');
  const [id = '', name = ''] = ['code', 'name'].map((column) => fieldOf(dataset.definition, column));
  const stacked: Step = {
    id: unique('step'),
    kind: 'union',
    name: '',
    off: false,
    inputs: [table.id, table.id],
    once: false,
    fields: [
      { id: unique('field'), name: 'no', from: [id, id], as: null },
      { id: unique('field'), name: 'called', from: [name, null], as: null, fill: [null, "not 'named', \u20ac"] },
    ],
    source: { id: unique('field'), name: 'came from', words: ['list', 'other list'] },
  };
  const { rows } = await rowsAfter(await edit(analyst, dataset, addStepAfter(dataset.definition, table.id, stacked)));
  const expected = await inDemo(`select code, name, 'list' from coop.regions
    union all select code, 'not ''named'', \u20ac', 'other list' from coop.regions`);
  expect(sorted(rows)).toEqual(sorted(expected));
});

test('a group for every row of the big table is counted before anybody gets it whole', async () => {
  const readings = await datasetOf(analyst, await demoSource(analyst), 'scale_readings', 'coop', ['reading_no', 'weight_kg']);
  const after = lastOf(readings.definition);
  const step = summarise([['reading', 'reading_no']], [['weight', 'sum', 'weight_kg']])(readings.definition, after);
  const { done } = await rowsAfter(await edit(analyst, readings, addStepAfter(readings.definition, after, step)), 'head');
  const [[all] = []] = await inDemo('select count(*) from coop.scale_readings');
  expect([done.result?.rows, done.counts?.map((each) => each.rows)]).toEqual(['1000', [all, all]]);
});
