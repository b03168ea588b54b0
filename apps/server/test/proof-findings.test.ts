import type { Edit, Layout, Problem } from '@cendra/core';
import type { DatasetBody, Person } from './support/cendra';
import { Cendra, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, fieldOf, writtenCriteria } from './support/datasets';
import { datasetOfText, sqlOf } from './support/texts';

/** What a proof finds in the rows of its result is what the database says of them. */

const table = unique('looked_at');
let cendra: Cendra;
let analyst: Person;
let dataset: DatasetBody;
let result: string;

beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  await withSuperuser('cooperative', (client) =>
    client.query(`create table coop.${table} (region text, grade text, season text, kilos numeric(8,2), fee numeric(8,2), moisture numeric(4,1));
      insert into coop.${table} values
        ('Saltmarsh', 'A', '2025', 10, 5, 17.5), ('saltmarsh ', 'A', '2025', 20, 5, 18.0), ('Fennick', 'B', '2025', 7, 5, null),
        ('Fennick', 'B', '2025', 7, 0, null), ('FENNICK', 'a', '2025', 1, 5, null), (null, 'B', '2025', 1, 5, 17.0), (null, 'B', '2025', 1, 0, 17.0),
        ('Orrin Vale', 'C', '2025', 4, 5, 16.0), ('Orrin Vale', 'C', '2025', 4, 0, 16.0);
      grant select on coop.${table} to cendra_read`),
  );
  dataset = await datasetOf(analyst, await demoSource(analyst), table);
  result = (await run(analyst, dataset, 'full')).result?.id ?? '';
});
afterAll(async () => {
  await cendra.stop();
  await withSuperuser('cooperative', (client) => client.query(`drop table coop.${table}`));
});

const f = (name: string) => fieldOf(dataset.definition, name);
const by = (name: string) => ({ field: f(name), descending: false, subtotal: true });
const bySql = (text: string) => withSuperuser('cooperative', async (client) => (await client.query<Record<string, string>>(text)).rows);

async function found(layout: Partial<Layout>, of = dataset, at = result): Promise<readonly Problem[]> {
  const wanted: Layout = { levels: [], rows: false, grandTotal: true, marks: [], totals: [], ...layout };
  const properties = ['levels', 'across', 'rows', 'totals', 'chart'] as const;
  const laid = await edit(
    analyst,
    of,
    ...properties.map((property) => ({ kind: 'set proof', property, from: of.definition.proof[property], to: wanted[property] }) as const),
  );
  if (of === dataset) dataset = laid;
  return analyst.post<readonly Problem[]>(`/results/${at}/proofs/findings`, { dataset: laid.id, revision: laid.revision });
}

test('groups that differ only by case or blanks, down and across, each with an example', async () => {
  const problems = await found({ levels: [by('region')], across: { levels: [by('grade')], total: true } });
  const apart = await bySql(
    `select lower(btrim(region)) from coop.${table} where region is not null group by 1 having count(distinct region collate "C") > 1`,
  );
  expect(apart).toHaveLength(2);
  expect(problems.filter(({ code }) => code === 'groups-alike')).toEqual([
    expect.objectContaining({
      message: '2 values of region stand in several groups that differ only by case or blanks: “FENNICK” and “Fennick”.',
      place: { field: f('region') },
    }),
    expect.objectContaining({ message: expect.stringContaining('One value of grade stands in') as string, place: { field: f('grade') } }),
  ]);
});

test('a figure that is the same in each group, and none that differs, lacks in one or is of two groups only', async () => {
  const totals = [
    { field: f('fee'), aggregate: 'greatest' },
    { field: f('kilos'), aggregate: 'sum' },
    { field: f('season'), aggregate: 'distinct count' },
  ] as const;
  const problems = (await found({ levels: [by('region')], totals })).filter(({ code }) => code === 'figure-same');
  const groups = await bySql(`select region from coop.${table} group by region`);
  expect(problems.map(({ message }) => message)).toEqual([
    `The greatest of fee is 5.00 in each of ${groups.length} groups.`,
    `The distinct count of season is 1 in each of ${groups.length} groups.`,
  ]);
  const one = await found({ levels: [by('season')], totals });
  expect(one.filter(({ code }) => code === 'figure-same')).toEqual([]);
  const lacking = await found({ levels: [by('region')], totals: [{ field: f('moisture'), aggregate: 'distinct count' }] });
  expect(lacking.filter(({ code }) => code === 'figure-same')).toEqual([]);
});

test('rows that are the same in every field shown, counted, and none where groups alone are shown', async () => {
  const of = await datasetOf(analyst, await demoSource(analyst), table, 'coop', ['region', 'grade', 'kilos']);
  const at = (await run(analyst, of, 'full')).result?.id ?? '';
  const [apart] = await bySql(
    `select sum(n) as rows from (select count(*) n from coop.${table} group by region, grade, kilos having count(*) > 1) alike`,
  );
  const problems = await found({ rows: true }, of, at);
  expect(problems.map(({ code, message }) => [code, message])).toEqual([
    ['rows-alike', `${apart?.rows ?? ''} rows have another that is the same in every field shown.`],
  ]);
  expect(apart?.rows).toBe('6');
  expect((await found({ rows: true })).filter(({ code }) => code === 'rows-alike')).toEqual([]);
});

test('a single column across, and a chart with groups it draws nothing for', async () => {
  const problems = await found({
    levels: [by('grade')],
    across: { levels: [by('season')], total: true },
    chart: { as: 'bars side by side', field: f('moisture'), aggregate: 'average' },
  });
  const [apart] = await bySql(`select count(*) n from (select grade from coop.${table} group by grade having count(moisture) = 0) nothing`);
  expect(apart?.n).toBe('1');
  expect(problems.filter(({ code }) => ['across-one', 'chart-without-figure'].includes(code)).map(({ message }) => message)).toEqual([
    'One group has no average of moisture, so the chart draws nothing there.',
    'One column per value of season is a single column.',
  ]);
});

test('groups of one name, groups of several names, and a field at the head that is not the same in all of a group', async () => {
  const said = async (layout: Partial<Layout>) =>
    (await found(layout)).filter(({ code }) => code.startsWith('group-')).map(({ code, message }) => `${code}: ${message}`);
  const pairs = `(select distinct region collate "C" as region, grade from coop.${table} where region is not null) pairs`;
  const [alike] = await bySql(`select grade from ${pairs} group by grade having count(*) > 1`);
  expect(alike?.grade).toBe('A');
  expect(await said({ levels: [{ ...by('region'), shown: f('grade') }] })).toEqual([
    'group-names-alike: Groups of region are shown by one name: “A” is the grade of “Saltmarsh” and “saltmarsh ”.',
  ]);
  expect(await said({ levels: [{ ...by('grade'), shown: f('region') }] })).toEqual([
    'group-names-several: The group “A” of grade has several values of region, of which the least is shown: “Saltmarsh” and “saltmarsh ”.',
  ]);
  const differing = await bySql(
    `select grade from coop.${table} group by grade having count(distinct region collate "C") > 1 or count(region) between 1 and count(*) - 1`,
  );
  expect(differing).toHaveLength(2);
  // The first grade has several, and all others are the rest together.
  expect(await said({ levels: [{ ...by('grade'), first: 1, heads: [f('region')] }] })).toEqual([
    expect.stringContaining('not the same in all rows of one group: “A”'),
  ]);
  expect(await said({ levels: [{ ...by('grade'), heads: [f('region'), f('season')] }] })).toEqual([
    'group-head-several: region stands at the head of the groups of grade and is not the same in all rows of 2 groups: “A” has “Saltmarsh” and “saltmarsh ”.',
  ]);
});

test('a level whose every group has a single one of the next in it, and the two are exchanged', async () => {
  const of = await datasetOfText(
    analyst,
    await demoSource(analyst),
    "select * from (values ('UT-1', 'Utter', 'A'), ('UT-2', 'Utter', 'A'), ('FN-1', 'Fennick', 'B'), ('FN-1', 'Fennick', 'A')) stands (district, region, grade)",
  );
  const at = (await run(analyst, of, 'full')).result?.id ?? '';
  const idOf = (name: string) => sqlOf(of).fields.find((each) => each.column === name)?.id ?? '';
  const level = (name: string) => ({ field: idOf(name), descending: false, subtotal: true });
  let laid = of;
  const nested = async (...names: readonly string[]) => {
    const levels = names.map(level);
    laid = await edit(analyst, laid, { kind: 'set proof', property: 'levels', from: laid.definition.proof.levels, to: levels } as Edit);
    const problems = await analyst.post<readonly Problem[]>(`/results/${at}/proofs/findings`, {
      dataset: laid.id,
      revision: laid.revision,
    });
    return problems.filter(({ code }) => code === 'levels-nested');
  };
  const [hint] = await nested('district', 'region');
  expect(hint).toMatchObject({
    severity: 'hint',
    message: 'Each district has one region and stands above it, so that every group of district has a single one of region in it.',
    place: { field: idOf('district') },
  });
  expect(await nested('region', 'district')).toEqual([]);
  expect(await nested('district', 'grade')).toEqual([]);
});

test('nothing is said where nothing is off, also of no row at all', async () => {
  expect(await found({ levels: [by('season')], totals: [{ field: f('kilos'), aggregate: 'sum' }] })).toEqual([]);
  const all = await datasetOf(analyst, await demoSource(analyst), table);
  const of = await edit(analyst, all, writtenCriteria(all.definition, 'kilos > 1000'));
  const { result: none } = await run(analyst, of, 'full');
  expect(none?.rows).toBe('0');
  expect(await found({ levels: [{ ...by('region'), field: fieldOf(of.definition, 'region') }], rows: true }, of, none?.id)).toEqual([]);
});

test('lines of a sheet: shares that are no parts of one whole, and a number that stands twice; long lists are none', async () => {
  const findings = async (text: string) => {
    const taken = await datasetOfText(analyst, await demoSource(analyst), text);
    const done = await run(analyst, taken, 'full');
    const problems = await analyst.post<readonly Problem[]>(`/results/${done.result?.id ?? ''}/proofs/findings`, {
      dataset: taken.id,
      revision: taken.revision,
    });
    return problems.filter(({ code }) => code === 'shares-off' || code === 'line-twice').map((each) => each.message);
  };
  const lines = (values: string) => `select * from (values ${values}) v(place, wording, share)`;
  expect(await findings(lines("(10, 'Fennick', 40.0), (20, 'Orrin Vale', 35.5), (20, 'Saltmarsh', 10.0), (30, 'all', 100.0)"))).toEqual([
    'The 3 values of share come to 85.5, not to 100.',
    'place 20 stands in 2 rows.',
  ]);
  expect(await findings(lines("(10, 'Fennick', 33.3), (20, 'Orrin Vale', 33.3), (30, 'Saltmarsh', 33.3), (40, 'all', 100.0)"))).toEqual([]);
  expect(await findings('select n / 2 as place, n::text as wording, 12.5 as share from generate_series(1, 300) n')).toEqual([]);
});

test('a number of more digits than a sum holds is told, where a field that is added up has any', async () => {
  const findings = async (text: string) => {
    const taken = await datasetOfText(analyst, await demoSource(analyst), text);
    const done = await run(analyst, taken, 'full');
    const to = [{ field: sqlOf(taken).fields[0]?.id ?? '', aggregate: 'sum' as const }];
    const set = { kind: 'set proof', property: 'totals', from: taken.definition.proof.totals, to } as Edit;
    const laid = await edit(analyst, taken, set);
    const asked = { dataset: laid.id, revision: laid.revision };
    const problems = await analyst.post<readonly Problem[]>(`/results/${done.result?.id ?? ''}/proofs/findings`, asked);
    return problems.filter(({ code }) => code === 'sum-not-held').map((each) => each.message);
  };
  const numbers = (values: string) => `select v::numeric as free from unnest('{${values}}'::text[]) v`;
  expect(await findings(numbers('1e30,1,NaN,2'))).toEqual([
    'One value of free has more digits than a sum holds, so there is no sum and no average where it belongs.',
  ]);
  expect(await findings(numbers('1e30,-1e26,2'))).toEqual([
    '2 values of free have more digits than a sum holds, so there is no sum and no average where they belong.',
  ]);
  expect(await findings(numbers('99999999999999999999999999.5,0.1,NaN'))).toEqual([]);
});
