import type { Parameter } from '@cendra/core';
import { heldAgainst, saidInstead } from '@cendra/core';
import { CORPUS } from '../../../packages/core/test/support/corpus';
import type { DatasetBody, ProblemBody } from './support/cendra';
import { rowsOf, run } from './support/cendra';
import { edit } from './support/datasets';
import { sameRowsOf, saidInSteps } from './support/in-steps';
import { started } from './support/proofs';
import { datasetOfText, sqlOf } from './support/texts';

/** A text and the steps it is said in give the same rows in its source, whatever it is. */

const server = started();

const VALUE: Readonly<Record<Parameter['type'], string>> = {
  text: 'A',
  'whole number': '5',
  decimal: '5.5',
  date: '2024-06-01',
  'date-time': '2024-06-01 12:00:00',
  'yes/no': 'true',
};

const valuesFor = ({ definition }: DatasetBody): Record<string, readonly string[]> =>
  Object.fromEntries(
    definition.parameters.map(({ id, type, takes }) => [
      id,
      takes === 'range' ? ['2024-04-01', '2024-09-30'].map((day) => (type === 'date' ? day : VALUE[type])) : [VALUE[type]],
    ]),
  );

async function same(text: string): Promise<{ readonly dataset: DatasetBody; readonly kind: string; readonly outcome: unknown }> {
  const dataset = await datasetOfText(server.analyst, server.source, text);
  const said = await saidInSteps(server.analyst, server.source, dataset);
  if (said.kind !== 'said') return { dataset, kind: said.kind, outcome: said };
  const { rows, differing } = await sameRowsOf(server.analyst, dataset, said, valuesFor(dataset));
  return { dataset, kind: said.kind, outcome: { rows: rows.text === rows.steps ? 'as many' : rows, differing: differing.rows } };
}

const SAME = { rows: 'as many', differing: [] };

/** The moment a statement runs at is another one in each, down to the microsecond. */
const OF_ITS_MOMENT = /localtimestamp/;

test('pasted statements that steps say give the same rows', async () => {
  const wrong: unknown[] = [];
  let said = 0;
  for (const { text } of CORPUS.filter((each) => each.dressed === 'as it is' && each.text.length < 20_000 && /\S\s+\S/.test(each.text))) {
    if (OF_ITS_MOMENT.test(text)) continue;
    const { kind, outcome } = await same(text);
    if (kind !== 'said') continue;
    said++;
    if (JSON.stringify(outcome) !== JSON.stringify(SAME)) wrong.push([text, outcome]);
  }
  expect(wrong).toEqual([]);
  expect(said).toBeGreaterThan(50);
});

const H = 'coop.harvests h';
test.each([
  `select h.frames / 4 as quarters, h.kilos from (select id % 97 as frames, kilos from coop.harvests) h`,
  `select grade, count(*) as n, sum(kilos) as kilos, avg(kilos) as mean, min(picked_on) as first, count(distinct floral_source) as sources from ${H} group by grade having count(*) > 3 order by 2 desc, 1`,
  `select date_trunc('month', picked_on)::date as month, sum(kilos) filter (where grade = 'A') as best from ${H} group by 1 order by 1`,
  `select a.name, d.name as district, h.kilos from ${H} join coop.apiaries a on a.code = h.apiary_code left join coop.districts d on d.code = a.district_code where h.kilos > 10`,
  `select h.id from ${H} where exists (select 1 from coop.deliveries d where d.harvest_id = h.id and d.kilos > 3)`,
  `select h.id from ${H} where not exists (select 1 from coop.deliveries d where d.harvest_id = h.id)`,
  `select h.id from ${H} where h.apiary_code in (select code from coop.apiaries where altitude_m > 400)`,
  `select distinct floral_source, grade from ${H} where kilos is not null`,
  `select distinct on (h.apiary_code) h.apiary_code, h.kilos, h.id from ${H} order by h.apiary_code, h.kilos desc nulls last, h.id`,
  `select id, kilos from ${H} order by kilos desc, id limit 25`,
  `select id, rank() over (partition by grade order by kilos desc) as place, kilos - lag(kilos) over (order by id) as more from ${H}`,
  `with best as (select apiary_code, max(kilos) as most from coop.harvests group by apiary_code) select a.name, b.most from coop.apiaries a join best b on b.apiary_code = a.code where b.most > 5 order by 2 desc, 1`,
  `select grade as word, kilos from coop.harvests where kilos > 30 union all select floral_source, kilos from coop.harvests where kilos < 3`,
  `select case when kilos > 20 then 'large' when kilos > 8 then 'middling' else 'small' end as size, count(*) from ${H} group by 1`,
  `select upper(left(batch, 2)) || '-' || id as mark, round(kilos) as about, coalesce(moisture, 0) as moisture from ${H} where batch like '%1%' and batch not ilike '%x_'`,
  `select id from ${H} where (grade = 'A' or kilos >= 30) and not (floral_source = 'lime') and picked_on between '2024-01-01' and '2024-12-31'`,
  `select to_char(picked_on, 'YYYY-MM') as month, extract(isodow from picked_on) as day, picked_on + 7 as later, picked_on - interval '1 month' as before from ${H}`,
  `select m.last_name, count(h.id) as harvests from coop.members m left join coop.apiaries a on a.member_id = m.id left join ${H} on h.apiary_code = a.code and h.grade = 'A' group by m.last_name`,
  `select r.name, s.total from coop.regions r cross join (select sum(kilos) as total from coop.harvests) s`,
  `select id, regexp_replace(batch, '[0-9]', '#', 'g') as mark from ${H} where kilos > 20 and grade = 'A' order by id`,
])('%s', async (text) => {
  expect(await same(text)).toMatchObject({ kind: 'said', outcome: SAME });
});

test('a text that asks itself whether a parameter is blank: filled and blank, its steps give the same rows', async () => {
  const text = `select id from ${H} where (:flower is null or h.floral_source = :flower) and h.kilos > :least`;
  const dataset = await datasetOfText(server.analyst, server.source, text);
  const [flower, least] = ['flower', 'least'].map((name) => dataset.definition.parameters.find((each) => each.name === name)?.id ?? '');
  const said = await saidInSteps(server.analyst, server.source, dataset);
  expect(said).toMatchObject({ kind: 'said', off: [flower], stays: [] });
  if (said.kind !== 'said') return;
  for (const values of [{ [flower ?? '']: ['lime'], [least ?? '']: ['5'] }, { [least ?? '']: ['5'] }, {}]) {
    const { rows, differing } = await sameRowsOf(server.analyst, dataset, said, values);
    expect([rows.text === rows.steps, differing.rows]).toEqual([true, []]);
  }
  const now = await edit(server.analyst, dataset, ...saidInstead(dataset.definition, sqlOf(dataset), said));
  expect(now.definition.parameters.find((each) => each.id === flower)?.leftBlank).toBe('condition is off');
});

test('a difference is shown: what a source’s own order takes for the first rows', async () => {
  const dataset = await datasetOfText(
    server.analyst,
    server.source,
    'select id, weighed_at - current_date::timestamp as since, localtimestamp as now from coop.harvests',
  );
  const said = await saidInSteps(server.analyst, server.source, dataset);
  if (said.kind !== 'said') throw new Error(JSON.stringify(said));
  expect(said.stays.map((each) => each.because)).toEqual(['The time between two moments is no number here.']);
  const { rows, differing } = await sameRowsOf(server.analyst, dataset, said);
  expect(rows.text).toBe(rows.steps);
  expect(differing).toMatchObject({ more: true, fields: [{ name: 'id' }, { name: 'since' }, { name: 'now' }] });
  expect(differing.rows[0]).toMatchObject({ values: ['1', expect.any(String), expect.any(String)] });
});

test('the steps taken in the place of the text give the rows it gave, under the same names', async () => {
  const text =
    'select h.kilos as weight, a.name from coop.harvests h join coop.apiaries a on a.code = h.apiary_code where h.kilos >= 30 order by h.id';
  const dataset = await datasetOfText(server.analyst, server.source, text);
  const read = async (of: DatasetBody) => rowsOf(server.analyst, (await run(server.analyst, of, 'full')).result?.id ?? '');
  const before = await read(dataset);
  expect(before.length).toBeGreaterThan(10);
  const said = await saidInSteps(server.analyst, server.source, dataset);
  if (said.kind !== 'said') throw new Error(JSON.stringify(said));
  const now = await edit(server.analyst, dataset, ...saidInstead(dataset.definition, sqlOf(dataset), said));
  expect(now.definition.steps.map((each) => each.kind)).toEqual(['table', 'table', 'join', 'criteria', 'arrange']);
  expect(await read(now)).toEqual(before);
  expect(now.definition.sheet).toEqual([{ field: sqlOf(dataset).fields[0]?.id, name: 'weight' }]);
});

test('steps that read another source, or are none, are refused', async () => {
  const dataset = await datasetOfText(server.analyst, server.source, 'select id from coop.harvests');
  const said = await saidInSteps(server.analyst, server.source, dataset);
  if (said.kind !== 'said') throw new Error(JSON.stringify(said));
  const ask = (question: object) =>
    server.analyst.ask<ProblemBody>('POST', '/answers', {
      dataset: dataset.id,
      revision: dataset.revision,
      values: {},
      question: { ...heldAgainst(sqlOf(dataset), said), ...question },
    });
  const elsewhere = said.steps.map((each) => (each.kind === 'table' ? { ...each, source: '00000000-0000-4000-8000-000000000000' } : each));
  expect((await ask({ steps: elsewhere })).body).toMatchObject({ type: 'step-elsewhere' });
  expect((await ask({ steps: [] })).body).toMatchObject({ type: 'question-wrong' });
  expect((await ask({ steps: said.steps, fields: [] })).body).toMatchObject({ type: 'field-gone' });
});
