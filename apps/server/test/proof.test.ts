import fc from 'fast-check';
import type { AcrossPlace, Aggregate, Edit, Layout } from '@cendra/core';
import { PLAIN_LAYOUT } from '@cendra/core';
import { wireRow } from '../../../packages/core/test/support/wire-rows';
import type { DatasetBody, Person, ProblemBody } from './support/cendra';
import { Cendra, run } from './support/cendra';
import { withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, fieldOf } from './support/datasets';
import { Generated, rowsOf } from './support/generated';
import { naiveLines, REST, SEVERAL } from './support/naive-proof';
import { engineLines, layouts, readAs, withStretches } from './support/proof-lines';
import type { ProofBody } from './support/proofs';
import { proofOf } from './support/proofs';

describe('the lines of a proof', () => {
  let generated: Generated;
  beforeAll(async () => (generated = await Generated.open()));
  afterAll(() => generated.close());

  test('are those that are read off the rows by hand, whatever the layout', async () => {
    let stretches = 0;
    let rests = 0;
    let empty = 0;
    let named = 0;
    const headed = new Set<string>();
    await fc.assert(
      fc.asyncProperty(layouts, fc.array(wireRow, { maxLength: 12 }), async (given, rows) => {
        await generated.fill(rows);
        const read = await readAs(generated, given);
        stretches += read.made.length;
        const told = naiveLines(read.layout, read.fields, withStretches(read, rowsOf(rows)));
        empty += told.filter(({ rows: of }) => of === 0).length;
        rests += told.filter(({ keys }) => keys.includes(REST)).length;
        named += told.filter(({ keys, shown }) => shown.some((each, at) => each !== null && each !== keys[at])).length;
        for (const each of told.flatMap(({ heads }) => heads)) headed.add(each === SEVERAL || each === null ? String(each) : 'one');
        expect(await engineLines(generated, read)).toEqual(told);
      }),
      { numRuns: 100, seed: 18 },
    );
    expect(stretches).toBeGreaterThan(10);
    expect(rests).toBeGreaterThan(20);
    expect(empty).toBeGreaterThan(20);
    expect(named).toBeGreaterThan(50);
    expect([...headed].toSorted()).toEqual(['null', 'one', SEVERAL]);
  });
});

describe('a proof over HTTP', () => {
  let cendra: Cendra;
  let analyst: Person;
  let source: string;
  beforeAll(async () => {
    cendra = await Cendra.start();
    analyst = await cendra.signIn('analyst');
    source = await demoSource(analyst);
  });
  afterAll(() => cendra.stop());

  test('groups days by the months and seasons of the calendar, down and across, as SQL does', async () => {
    const plain = await datasetOf(analyst, source, 'harvests');
    const { proof } = plain.definition;
    const [day, kilos] = ['picked_on', 'kilos'].map((column) => fieldOf(plain.definition, column));
    const level = (stretch: string) => ({ field: day, stretch, descending: false, subtotal: true });
    const dataset = await edit(
      analyst,
      plain,
      { kind: 'set proof', property: 'levels', from: proof.levels, to: [level('month')] } as never,
      {
        kind: 'set proof',
        property: 'across',
        from: proof.across,
        to: { levels: [level('year')], total: true },
      } as never,
      { kind: 'set proof', property: 'totals', from: proof.totals, to: [{ field: kilos, aggregate: 'sum' }] } as never,
    );
    const result = (await run(analyst, dataset, 'full')).result?.id ?? '';
    const made = await analyst.post<ProofBody & { across: readonly AcrossPlace[] }>(`/results/${result}/proofs`, {
      dataset: dataset.id,
      revision: dataset.revision,
    });
    const lines = await analyst.get<(string | null)[][]>(`/results/${result}/proofs/${made.key}/lines?offset=0&limit=500`);
    const at = (line: (string | null)[], id: string) => line[made.columns.findIndex((each) => each.id === id) + 1] ?? null;
    const told = lines.flatMap((line) =>
      at(line, 'line_level') === '1'
        ? made.across.map(([year], place) => [at(line, 'key_1'), year?.value, at(line, `total_${place}`)])
        : [],
    );
    const { rows: expected } = await withSuperuser('cooperative', (client) =>
      client.query<{ month: string; year: string; kilos: string }>(`select date_trunc('month', picked_on)::date::text as month,
        date_trunc('year', picked_on)::date::text as year, sum(kilos)::text as kilos from coop.harvests group by 1, 2 order by 1, 2`),
    );
    expect(told.filter(([, , kilo]) => kilo !== null)).toEqual(expected.map(({ month, year, kilos: of }) => [month, year, of]));
    expect(made.across.map(([year]) => year?.value)).toEqual([...new Set(expected.map((each) => each.year))].toSorted());
  });

  const setLayout = (dataset: DatasetBody, given: Partial<Layout>) =>
    edit(
      analyst,
      dataset,
      ...Object.entries(given).map(([property, to]): Edit => ({
        kind: 'set proof',
        property: property as keyof Layout,
        from: PLAIN_LAYOUT[property as keyof Layout],
        to,
      })),
    );

  test('gives the database’s own subtotals and grand total, averages from rows', async () => {
    const plain = await datasetOf(analyst, source, 'harvests', 'coop', ['floral_source', 'grade', 'kilos', 'moisture']);
    const [floral, grade, kilos, moisture] = ['floral_source', 'grade', 'kilos', 'moisture'].map((each) =>
      fieldOf(plain.definition, each),
    ) as [string, string, string, string];
    const dataset = await setLayout(plain, {
      levels: [floral, grade].map((field) => ({ field, descending: false, subtotal: true })),
      rows: false,
      totals: [
        { field: kilos, aggregate: 'sum' },
        { field: moisture, aggregate: 'average' },
      ],
    });
    const { proof, lines, at } = await proofOf(analyst, dataset);
    const apart = await withSuperuser('cooperative', (client) =>
      client.query<Record<string, string | null>>(
        `select floral_source, grade, 2 - (grouping(floral_source) + grouping(grade)) as level, count(*)::text as rows, sum(kilos)::text as kilos,
           round(sum(moisture) / count(moisture), 6)::text as moisture, count(moisture)::text as values
         from coop.harvests group by rollup (floral_source, grade) order by 1 nulls last, 2 nulls last`,
      ),
    );
    expect(proof.groups).toBe(apart.rows.length - 1);
    const totals = lines.filter((line) => at(line, 'line_kind') === '2');
    expect(totals).toHaveLength(apart.rows.length);
    for (const row of apart.rows) {
      const own = totals.filter(
        (line) =>
          at(line, 'line_level') === String(row.level) && at(line, 'key_1') === row.floral_source && at(line, 'key_2') === row.grade,
      );
      expect(own.map((line) => [at(line, 'line_rows'), at(line, 'total_0'), at(line, 'total_1'), at(line, 'values_1')])).toEqual([
        [row.rows, row.kilos, row.moisture, row.values],
      ]);
    }
    expect(at(lines.at(-1) ?? [], 'line_level')).toBe('0');
  });

  test('marks by the value a parameter had when the rows were got', async () => {
    const plain = await datasetOf(analyst, source, 'harvests', 'coop', ['kilos', 'grade']);
    const kilos = fieldOf(plain.definition, 'kilos');
    const limit = { id: 'limit', name: 'limit', type: 'decimal', takes: 'one', leftBlank: 'condition is off', startsAs: ['20'], hint: '' };
    const asked = await edit(analyst, plain, { kind: 'add parameter', parameter: limit, at: { after: null, before: null } } as never);
    const marks: Layout['marks'] = [{ id: 'heavy', field: kilos, operator: 'above', operands: [':{limit}'], look: 'boxed' }];
    const dataset = await setLayout(asked, { marks, totals: [] });
    for (const value of ['29', '30']) {
      const result = (await run(analyst, dataset, 'full', { limit: [value] })).result?.id ?? '';
      const body = { dataset: dataset.id, revision: dataset.revision };
      const { key, columns } = await analyst.post<ProofBody>(`/results/${result}/proofs`, body);
      const lines = await analyst.get<(string | null)[][]>(`/results/${result}/proofs/${key}/lines?offset=0&limit=500`);
      const at = (line: (string | null)[], id: string) => line[columns.findIndex((each) => each.id === id) + 1] ?? null;
      expect(lines.length).toBeGreaterThan(100);
      const heavy = (weight: string | null) => (weight === null ? null : String(Number(weight) > Number(value)));
      expect(lines.map((line) => at(line, 'mark_0'))).toEqual(lines.map((line) => heavy(at(line, kilos))));
      expect(lines.some((line) => at(line, 'mark_0') === 'true')).toBe(true);
    }
  });

  test('is made once for one layout, and again when the layout changes', async () => {
    const dataset = await datasetOf(analyst, source, 'regions');
    const first = await proofOf(analyst, dataset);
    const again = await analyst.post<ProofBody>(`/results/${first.result}/proofs`, { dataset: dataset.id, revision: dataset.revision });
    expect(again).toEqual(first.proof);
    const other = await setLayout(dataset, { grandTotal: false });
    const changed = await analyst.post<ProofBody>(`/results/${first.result}/proofs`, { dataset: other.id, revision: other.revision });
    expect(changed.key).not.toBe(first.proof.key);
    expect(changed.lines).toBe(first.proof.lines - 1);
  });

  test('of nothing is its grand total, of one row that row and it', async () => {
    for (const [limit, lines] of [
      [0, 1],
      [1, 2],
    ] as const) {
      await withSuperuser('cooperative', (client) =>
        client.query(
          `create or replace view coop.few as select * from coop.regions order by 1 limit ${limit}; grant select on coop.few to cendra_read`,
        ),
      );
      const { proof } = await proofOf(analyst, await datasetOf(analyst, source, 'few'));
      expect(proof.lines).toBe(lines);
    }
    await withSuperuser('cooperative', (client) => client.query('drop view coop.few'));
  });

  test('of numbers without a fixed scale compares them by value, with all their digits, and never adds up only some', async () => {
    const wide = '1000000000000000000000000000000.25';
    const numbers = ['1', '1.0', '1.00', '2.50', '-7.3', '0.0000000000000000000000000000000000000001'];
    const viewOf = (values: readonly string[]) =>
      withSuperuser('cooperative', (client) =>
        client.query(
          `create or replace view coop.loose as select n as id, v::numeric as loose from unnest(array['${values.join("','")}', null]) with ordinality as u (v, n);
           grant select on coop.loose to cendra_read`,
        ),
      );
    await viewOf(numbers);
    try {
      const plain = await datasetOf(analyst, source, 'loose');
      const loose = fieldOf(plain.definition, 'loose');
      const aggregates: readonly Aggregate[] = ['sum', 'average', 'least', 'greatest', 'distinct count'];
      const dataset = await setLayout(await edit(analyst, plain, { kind: 'set sheet', field: loose, property: 'role', to: 'measure' }), {
        levels: [{ field: loose, descending: false, subtotal: false }],
        rows: false,
        totals: aggregates.map((aggregate) => ({ field: loose, aggregate })),
      });
      const told = async () => {
        const { lines, at } = await proofOf(analyst, dataset);
        const groups = lines.filter((line) => at(line, 'line_level') === '1');
        const [all = []] = lines.filter((line) => at(line, 'line_level') === '0');
        const totals = aggregates.map((_each, index) => at(all, `total_${index}`));
        return { groups: groups.map((line) => [at(line, 'key_1'), at(line, 'line_rows')]), totals };
      };
      const few = await told();
      expect(few.groups).toHaveLength(5);
      expect(few.groups).toContainEqual(['1', '3']);
      expect(few.totals).toEqual(['-1.800000000000', '-0.300000000000', '-7.3', '2.50', '4']);
      await viewOf([...numbers, wide]);
      expect((await told()).totals).toEqual([null, null, '-7.3', wide, '5']);
    } finally {
      await withSuperuser('cooperative', (client) => client.query('drop view coop.loose'));
    }
  });

  test('with a sum of more digits than the engine holds says so', async () => {
    await withSuperuser('cooperative', (client) =>
      client.query(
        `create view coop.heavy as select n as id, repeat('9', 38)::numeric(38) as huge from generate_series(1, 2) n; grant select on coop.heavy to cendra_read`,
      ),
    );
    try {
      const plain = await datasetOf(analyst, source, 'heavy');
      const dataset = await setLayout(plain, { totals: [{ field: fieldOf(plain.definition, 'huge'), aggregate: 'sum' }] });
      const done = await run(analyst, dataset, 'full');
      const asked = { dataset: dataset.id, revision: dataset.revision };
      const refused = await analyst.ask<ProblemBody>('POST', `/results/${done.result?.id}/proofs`, asked);
      expect([refused.status, refused.body.problems[0]?.code]).toEqual([422, 'figure-too-large']);
    } finally {
      await withSuperuser('cooperative', (client) => client.query('drop view coop.heavy'));
    }
  });

  test('of a million groups is read line by line', async () => {
    await withSuperuser('cooperative', (client) =>
      client.query(
        'create view coop.many as select n as id, n % 7 as part, 1::numeric(4,1) as one from generate_series(1, 1000000) n; grant select on coop.many to cendra_read',
      ),
    );
    try {
      const plain = await datasetOf(analyst, source, 'many');
      const dataset = await setLayout(plain, {
        levels: [{ field: fieldOf(plain.definition, 'id'), descending: true, subtotal: true }],
        totals: [{ field: fieldOf(plain.definition, 'one'), aggregate: 'sum' }],
      });
      const { result, proof, lines, at } = await proofOf(analyst, dataset);
      expect([proof.groups, proof.lines]).toEqual([1_000_000, 3_000_001]);
      expect(lines.slice(0, 3).map((line) => [at(line, 'line_kind'), at(line, 'key_1')])).toEqual([
        ['0', '1000000'],
        ['1', '1000000'],
        ['2', '1000000'],
      ]);
      const [last] = await analyst.get<(string | null)[][]>(`/results/${result}/proofs/${proof.key}/lines?offset=3000000&limit=5`);
      expect(at(last ?? [], 'total_0')).toBe('1000000.0');
    } finally {
      await withSuperuser('cooperative', (client) => client.query('drop view coop.many'));
    }
  });

  test('is read only by who may read the result, and an unknown one is not there', async () => {
    const dataset = await datasetOf(analyst, source, 'regions');
    const { result, proof } = await proofOf(analyst, dataset);
    const reader = await cendra.signIn('reader');
    expect((await reader.ask('GET', `/results/${result}/proofs/${proof.key}/lines?offset=0&limit=5`)).status).toBe(403);
    expect((await analyst.ask('GET', `/results/${result}/proofs/${'0'.repeat(24)}/lines?offset=0&limit=5`)).status).toBe(404);
    expect((await analyst.ask('GET', `/results/${result}/proofs/..%2Frows/lines?offset=0&limit=5`)).status).toBe(404);
  });
});
