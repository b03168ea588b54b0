import type { Person } from './support/cendra';
import { Cendra, rowsOf, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { datasetOf, demoSource, fieldOf } from './support/datasets';

let cendra: Cendra;
let analyst: Person;
let harvests: string;
let ids: Readonly<Record<string, string>>;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  const dataset = await datasetOf(analyst, await demoSource(analyst), 'harvests');
  ids = Object.fromEntries(
    ['id', 'kilos', 'moisture', 'floral_source', 'picked_on', 'batch'].map((each) => [each, fieldOf(dataset.definition, each)]),
  );
  harvests = (await run(analyst, dataset, 'full')).result?.id ?? '';
});
afterAll(() => cendra.stop());

const own = async (sql: string) =>
  (await withSuperuser('cooperative', (client) => client.query<(string | null)[]>({ text: sql, rowMode: 'array' }))).rows[0];
const profile = (field: string) => analyst.get<Record<string, unknown>>(`/results/${harvests}/profile?field=${ids[field]}`);
const find = (text: string, from: number, sort?: string) =>
  analyst.get<{ next: number | null; first: number | null; rows: number }>(
    `/results/${harvests}/find?text=${encodeURIComponent(text)}&from=${from}${sort === undefined ? '' : `&sort=${sort}`}`,
  );

describe('the profile of a field', () => {
  test('of numbers is the database’s own', async () => {
    const [rows, nulls, distinct, least, greatest, mean] =
      (await own(
        'select count(*)::text, (count(*) - count(kilos))::text, count(distinct kilos)::text, min(kilos)::text, max(kilos)::text, round(avg(kilos), 4)::text from coop.harvests',
      )) ?? [];
    const told = await profile('kilos');
    expect(told).toMatchObject({ rows, nulls, distinct, least, greatest });
    expect(Number(told.mean).toFixed(4)).toBe(mean);
    const spread = told.spread as { rows: number }[];
    expect(spread).toHaveLength(20);
    expect(String(spread.reduce((sum, each) => sum + each.rows, 0))).toBe(String(Number(rows) - Number(nulls)));
  });

  test('of text has its most frequent values, null among them, and no spread', async () => {
    const told = await profile('floral_source');
    const top = told.top as { value: string | null; rows: string }[];
    const [value, rows] =
      (await own('select floral_source, count(*)::text from coop.harvests group by 1 order by count(*) desc, 1 nulls last limit 1')) ?? [];
    expect(top[0]).toEqual({ value, rows });
    expect(top.some((each) => each.value === null)).toBe(true);
    expect(told).toMatchObject({ spread: [], mean: null, empty: '0' });
  });

  test('of dates spreads over its days', async () => {
    const told = await profile('picked_on');
    const [least, greatest] = (await own('select min(picked_on)::text, max(picked_on)::text from coop.harvests')) ?? [];
    expect(told).toMatchObject({ least, greatest, mean: null });
    expect((told.spread as { from: string }[])[0]?.from).toBe(least);
  });

  test('of numbers whose sum the engine does not hold, and of numbers without a fixed scale, has a mean', async () => {
    const table = unique('heavy');
    await withSuperuser('cooperative', (client) =>
      client.query(
        `create table coop.${table} as select repeat('9', 38)::numeric(38) as huge, (n || '.25')::numeric as loose from generate_series(1, 3) n; grant select on coop.${table} to cendra_read`,
      ),
    );
    try {
      const dataset = await datasetOf(analyst, await demoSource(analyst), table);
      const result = (await run(analyst, dataset, 'full')).result?.id;
      const told = (name: string) =>
        analyst.get<{ mean: string | null; greatest: string }>(`/results/${result}/profile?field=${fieldOf(dataset.definition, name)}`);
      expect(await told('loose')).toMatchObject({ mean: '2.25', greatest: '3.25' });
      const huge = await told('huge');
      expect([Number(huge.mean), huge.greatest]).toEqual([1e38, '9'.repeat(38)]);
    } finally {
      await withSuperuser('cooperative', (client) => client.query(`drop table coop.${table}`));
    }
  });

  test('of numbers without a fixed scale compares them by value, with all their digits, and so does their order', async () => {
    const table = unique('loose');
    const numbers = ['1', '1.0', '1.00', '0', '-0.0', '.5', '0.05', '-7.25', '-7.3', '-70', '1000000000000000000000000000000.2'];
    numbers.push('4115226300411522630.2', '4115226300411522630.15', '142857142857.14285714', '-1000000000000000000000000000000', '1e-40');
    await withSuperuser('cooperative', (client) =>
      client.query(
        `create table coop.${table} (id int primary key, loose numeric);
         insert into coop.${table} select n, v::numeric from unnest(array['${numbers.join("','")}', null]) with ordinality as u (v, n);
         grant select on coop.${table} to cendra_read`,
      ),
    );
    try {
      const dataset = await datasetOf(analyst, await demoSource(analyst), table);
      const result = (await run(analyst, dataset, 'full')).result?.id ?? '';
      const loose = fieldOf(dataset.definition, 'loose');
      const told = await analyst.get<{ top: readonly object[] }>(`/results/${result}/profile?field=${loose}`);
      const [distinct, least, greatest] =
        (await own(`select count(distinct loose)::text, min(loose)::text, max(loose)::text from coop.${table}`)) ?? [];
      expect(told).toMatchObject({ distinct, least, greatest });
      expect(told.top.slice(0, 2)).toEqual([
        { value: '1', rows: '3' },
        { value: '0', rows: '2' },
      ]);
      for (const [sort, order] of [
        [loose, 'loose nulls last, id'],
        [`${loose}:desc`, 'loose desc nulls last, id'],
      ] as const) {
        const rows = await rowsOf(analyst, result, `offset=0&limit=100&sort=${sort}`);
        const sorted = await withSuperuser('cooperative', (client) =>
          client.query<[string]>({ text: `select id::text from coop.${table} order by ${order}`, rowMode: 'array' }),
        );
        expect(rows.map((row) => row[1])).toEqual(sorted.rows.map(([id]) => id));
      }
    } finally {
      await withSuperuser('cooperative', (client) => client.query(`drop table coop.${table}`));
    }
  });

  test('of an unknown field is refused', async () => {
    expect((await analyst.ask('GET', `/results/${harvests}/profile?field=nowhere`)).status).toBe(400);
  });
});

describe('finding a text', () => {
  test('goes from place to place, without regard to case, and begins again', async () => {
    const first = await find('b000034', 0);
    expect(first).toMatchObject({ rows: 1, first: first.next });
    const [row] = await rowsOf(analyst, harvests, `offset=${first.next}&limit=1`);
    expect(row).toContain('B000034');
    expect(await find('b000034', (first.next ?? 0) + 1)).toEqual({ next: null, first: first.next, rows: 1 });
  });

  test('is in the order the rows are sorted by', async () => {
    const sort = `${ids.kilos}:desc,${ids.id}`;
    const found = await find('rape', 0, sort);
    const rows = await rowsOf(analyst, harvests, `offset=0&limit=500&sort=${sort}`);
    expect(found.next).toBe(rows.findIndex((each) => each.includes('rape')));
  });

  test('takes signs as they are', async () => {
    expect(await find("%'; drop table x; --", 0)).toEqual({ next: null, first: null, rows: 0 });
    expect((await analyst.ask('GET', `/results/${harvests}/find?text=&from=0`)).status).toBe(400);
  });
});
