import type { Edit, Layout } from '@cendra/core';
import { PLAIN_LAYOUT } from '@cendra/core';
import type { DatasetBody } from './support/cendra';
import { withSuperuser } from './support/cluster';
import { datasetOf, edit, fieldOf, writtenCriteria } from './support/datasets';
import { proofOf, started } from './support/proofs';

/** Groups of a proof there are no rows of, held against SQL run apart. */

const at = started();

const harvests = (condition: string, layout: (dataset: DatasetBody) => Partial<Layout>) => told('harvests', condition, layout);

async function told(table: string, condition: string, layout: (dataset: DatasetBody) => Partial<Layout>) {
  const plain = await datasetOf(at.analyst, at.source, table);
  const set = Object.entries({ rows: false, grandTotal: false, ...layout(plain) }).map(
    ([property, to]) => ({ kind: 'set proof', property, from: PLAIN_LAYOUT[property as keyof Layout], to }) as Edit,
  );
  const made = await proofOf(at.analyst, await edit(at.analyst, plain, writtenCriteria(plain.definition, condition), ...set));
  return { ...made, cells: (...ids: readonly string[]) => made.lines.map((line) => ids.map((id) => made.at(line, id))) };
}

const bySql = (text: string) =>
  withSuperuser('cooperative', async (client) => (await client.query<(string | null)[]>({ text, rowMode: 'array' })).rows);

test('every month between the first and the last has a group, those without rows with a count of 0 and no sum', async () => {
  const { cells } = await harvests('kilos > 25', ({ definition }) => ({
    levels: [{ field: fieldOf(definition, 'picked_on'), stretch: 'month', descending: false, subtotal: true, also: { of: 'span' } }],
    totals: [{ field: fieldOf(definition, 'kilos'), aggregate: 'sum' }],
  }));
  const expected = await bySql(
    `with found as (select date_trunc('month', picked_on)::date as m, count(*) n, sum(kilos) k from coop.harvests where kilos > 25 group by 1)
     select m::date::text, coalesce(n, 0)::text, k::text
     from generate_series((select min(m) from found), (select max(m) from found), interval '1 month') months (m) left join found using (m) order by 1`,
  );
  expect(cells('key_1', 'line_rows', 'total_0')).toEqual(expected);
  expect(expected.filter(([, rows]) => rows === '0').length).toBeGreaterThan(10);
});

test('every value a field has before criteria is a group, down and across, of which no row may be left', async () => {
  const flowers = (definition: DatasetBody['definition']) => ({
    field: fieldOf(definition, 'floral_source'),
    descending: false,
    subtotal: true,
    also: { of: 'field' as const, step: definition.steps[0]?.id ?? '', field: fieldOf(definition, 'floral_source') },
  });
  const kilos = ({ definition }: DatasetBody) => [{ field: fieldOf(definition, 'kilos'), aggregate: 'sum' as const }];
  const few = "floral_source in ('lime', 'clover')";
  const down = await harvests(few, (each) => ({ levels: [flowers(each.definition)], totals: kilos(each) }));
  const expected = await bySql(
    `select floral_source, count(*) filter (where ${few})::text, (sum(kilos) filter (where ${few}))::text
     from coop.harvests where floral_source is not null group by 1 order by floral_source collate "C"`,
  );
  expect(down.cells('key_1', 'line_rows', 'total_0')).toEqual(expected);
  expect(expected.length).toBeGreaterThan(4);
  const across = await harvests(few, (each) => ({
    across: { levels: [flowers(each.definition)], total: false },
    grandTotal: true,
    totals: kilos(each),
  }));
  expect(across.answer.body.across?.map(([key]) => key?.value)).toEqual(expected.map(([flower]) => flower));
  const [sums] = across.cells(...expected.map((_each, place) => `total_${place}`));
  expect(sums).toEqual(expected.map(([, , sum]) => sum));
});

test('groups in groups are those that belong there: months in their year, districts in their region', async () => {
  const months = await harvests('kilos > 25', ({ definition }) => {
    const level = { field: fieldOf(definition, 'picked_on'), descending: false, subtotal: false, also: { of: 'span' as const } };
    return {
      levels: [
        { ...level, stretch: 'year' as const },
        { ...level, stretch: 'month' as const },
      ],
    };
  });
  const stretches = months.cells('line_level', 'key_1', 'key_2');
  const expected = await bySql(
    `select date_trunc('year', m)::date::text, m::date::text from generate_series(
       (select min(date_trunc('month', picked_on)) from coop.harvests where kilos > 25),
       (select max(date_trunc('month', picked_on)) from coop.harvests where kilos > 25), interval '1 month') months (m) order by 2`,
  );
  expect(stretches.filter(([level]) => level === '2').map(([, ...keys]) => keys)).toEqual(expected);
  const districts = await told('districts', "region_code = 'FN'", (dataset) => ({
    levels: ['region_code', 'code'].map((column) => ({
      field: fieldOf(dataset.definition, column),
      descending: false,
      subtotal: false,
      also: { of: 'field' as const, step: dataset.definition.steps[0]?.id ?? '', field: fieldOf(dataset.definition, column) },
    })),
  }));
  const pairs = await bySql(`select region_code, code from coop.districts where region_code is not null order by 1, 2`);
  const lines = districts.cells('line_level', 'key_1', 'key_2');
  expect(lines.filter(([level, region]) => level === '2' && region !== null).map(([, ...keys]) => keys)).toEqual(pairs);
  expect(new Set(pairs.map(([region]) => region)).size).toBeGreaterThan(2);
});

test('more groups than anybody reads are refused, with what to do', async () => {
  const { answer } = await harvests('kilos > 25', ({ definition }) => ({
    levels: [{ field: fieldOf(definition, 'picked_on'), stretch: 'day', descending: false, subtotal: true, also: { of: 'span' } }],
  }));
  expect(answer.status).toBe(422);
  expect(answer.body.problems).toMatchObject([
    { code: 'groups-many', message: 'Picked on by day would have more than 1000 groups without rows.' },
  ]);
});

test('groups without rows in each of very many groups are refused before they are made', async () => {
  const { answer } = await harvests('kilos > 5', ({ definition }) => ({
    levels: [
      { field: fieldOf(definition, 'id'), descending: false, subtotal: true },
      { field: fieldOf(definition, 'picked_on'), stretch: 'week', descending: false, subtotal: true, also: { of: 'span' } },
    ],
  }));
  expect(answer.status).toBe(422);
  expect(answer.body.problems).toMatchObject([{ code: 'groups-many', expected: 'them on fewer levels, or only groups with rows' }]);
});
