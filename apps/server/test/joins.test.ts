import type { Answers, Edit, JoinStep, Question, Step } from '@cendra/core';
import { addItem, applyEdits, bringInEdits, checkTrail, comparedPair, NOTHING_KNOWN, ofKind, setItem, tableStep } from '@cendra/core';
import type { ReadTable } from '@cendra/core';
import type { DatasetBody, Person, ProblemBody } from './support/cendra';
import { Cendra, rowsOf, run, postgresqlAt } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit } from './support/datasets';

/** Joins over HTTP and the demo's own database: whatever the ledger says is what SQL of the test's own says. */

let cendra: Cendra;
let analyst: Person;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
});
afterAll(() => cendra.stop());

async function demoDataset(title: string): Promise<DatasetBody> {
  const found = (await analyst.get<{ id: string; title: string }[]>('/datasets')).find((each) => each.title === title);
  return analyst.get<DatasetBody>(`/datasets/${found?.id ?? ''}`);
}

const joinsIn = ({ definition }: DatasetBody): readonly JoinStep[] => definition.steps.flatMap((each: Step) => ofKind('join', each) ?? []);

const ask = <Q extends Question>(of: DatasetBody, question: Q) =>
  analyst.post<Answers[Q['kind']]>('/answers', { dataset: of.id, revision: of.revision, values: {}, question });

const sql = async <T>(text: string): Promise<T> =>
  withSuperuser('cooperative', async (client) => (await client.query<T & object>(text)).rows[0] as T);

test('the ledger of harvests and apiaries is what SQL counts, and so is the count on the trail', async () => {
  const dataset = await demoDataset('Harvests and their apiaries');
  const [join] = joinsIn(dataset);
  if (!join) throw new Error('the dataset joins');
  const evidence = await ask(dataset, { kind: 'evidence', step: join.id });
  const told = await sql<Record<string, string>>(`
    select count(*) "all", count(*) filter (where a.code is not null) met, count(*) filter (where h.apiary_code is null) nulls,
      count(*) filter (where a.code is null and h.apiary_code is not null) alone,
      count(distinct h.apiary_code) filter (where a.code is not null) keys
    from coop.harvests h left join coop.apiaries a on a.code = h.apiary_code`);
  expect({
    all: evidence.left.all.rows,
    met: evidence.met,
    nulls: evidence.left.nulls.rows,
    alone: evidence.left.alone.rows,
    keys: evidence.left.partners[0]?.keys,
  }).toEqual(told);
  const done = await run(analyst, dataset, 'head');
  expect(done.counts?.find((each) => each.step === join.id)?.rows).toBe(told.all);
});

test('what the source expects of a join stands before it is counted, and near what is', async () => {
  const dataset = await demoDataset('Harvests and their apiaries');
  const [join] = joinsIn(dataset);
  const place = { step: join?.id ?? '' };
  await withSuperuser('cooperative', (client) => client.query('analyze coop.harvests; analyze coop.apiaries'));
  const { left, right, met } = await ask(dataset, { kind: 'evidence', ...place });
  const expected = await ask(dataset, { kind: 'expected evidence', ...place });
  expect(Number(expected.left)).toBe(Number(left.all.rows));
  expect(Number(expected.right)).toBe(Number(right.all.rows));
  // How many meet is told from how values are spread, so only their size is.
  expect(Math.abs(Math.log(Number(expected.met) / Number(met)))).toBeLessThan(Math.log(3));
  // Rows without a partner are seen as such, not as all there are.
  expect(Number(expected.leftAlone)).toBeLessThan(Number(left.all.rows) / 2);
  expect(Number(expected.rightAlone)).toBeLessThan(Number(right.all.rows));
});

test('near misses are counted as SQL counts them, and matched on purpose', async () => {
  const dataset = await demoDataset('Harvests and their apiaries');
  const [join] = joinsIn(dataset);
  const [pair] = join?.pairs ?? [];
  if (!join || pair?.kind !== 'compared') throw new Error('the dataset joins by a pair');
  const { counts, pairs } = await ask(dataset, { kind: 'near misses', step: join.id, pair: pair.id });
  const told = await sql<{ cased: string; blank: string; both: string }>(`
    with missed as (select h.apiary_code c from coop.harvests h where not exists (select from coop.apiaries a where a.code = h.apiary_code))
    select count(*) filter (where exists (select from coop.apiaries where lower(code) = lower(c))) cased,
      count(*) filter (where exists (select from coop.apiaries where code = btrim(c, ' '))) blank,
      count(*) filter (where exists (select from coop.apiaries where lower(code) = lower(btrim(c, ' ')))) both
    from missed`);
  const rows = (...overlooks: readonly string[]) =>
    counts.find((each) => each.overlooks.length === overlooks.length && overlooks.every((one) => each.overlooks.includes(one as never)))
      ?.rows;
  expect([rows('case'), rows('blanks'), rows('blanks', 'case')]).toEqual([told.cased, told.blank, told.both]);
  expect(pairs.length).toBeGreaterThan(5);
  const copy = await analyst.post<DatasetBody>(`/datasets/${dataset.id}/copies`);
  const [own] = joinsIn(copy);
  const [theirs] = own?.pairs ?? [];
  if (!own || theirs?.kind !== 'compared') throw new Error('the copy joins as well');
  const matched = await edit(analyst, copy, setItem(own, 'pairs', theirs, { ...theirs, overlooks: ['blanks', 'case'] }));
  const after = await ask(matched, { kind: 'evidence', step: own.id });
  const before = await ask(dataset, { kind: 'evidence', step: join.id });
  expect(Number(after.met)).toBe(Number(before.met) + Number(told.both));
});

test('the heather prices of 2024 double their harvests, are shown as the worst keys, and are cured by one partner per row', async () => {
  const dataset = await demoDataset('Harvests priced by grade');
  const [join] = joinsIn(dataset);
  if (!join) throw new Error('the dataset joins');
  const evidence = await ask(dataset, { kind: 'evidence', step: join.id });
  const told = await sql<{ twice: string; become: string; total: string }>(`
    with j as (select h.id, count(p.season) n from coop.harvests h left join coop.grade_prices p
      on p.season = extract(year from h.picked_on) and p.grade = h.grade and p.floral_source = h.floral_source group by h.id)
    select count(*) filter (where n = 2) twice, sum(n) filter (where n = 2) become, sum(greatest(n, 1)) total from j`);
  const two = evidence.left.partners.find((each) => each.partners === '2');
  expect([two?.rows, two?.become]).toEqual([told.twice, told.become]);
  expect(evidence.worst[0]?.values).toContain('heather');
  expect(evidence.worst[0]?.partners).toBe('2');
  const counted = (await run(analyst, dataset, 'head')).counts?.find((each) => each.step === join.id)?.rows;
  expect(counted).toBe(told.total);
  const copy = await analyst.post<DatasetBody>(`/datasets/${dataset.id}/copies`);
  const [own] = joinsIn(copy);
  const price = own?.fields.find((each) => each.name === 'price');
  if (!own || !price) throw new Error('the copy joins as well');
  const cured = await edit(analyst, copy, {
    kind: 'set step',
    step: own.id,
    property: 'one',
    from: null,
    to: [{ field: price.id, descending: false }],
  });
  const all = await sql<{ rows: string }>('select count(*) as rows from coop.harvests');
  const done = await run(analyst, cured, 'head');
  expect(done.counts?.find((each) => each.step === own.id)?.rows).toBe(all.rows);
});

test('a region valid from a day until a day is met by the day, wherever the evidence is counted', async () => {
  const dataset = await demoDataset('Harvests in the region of their day');
  const join = joinsIn(dataset)[1];
  if (!join) throw new Error('the dataset joins twice');
  const evidence = await ask(dataset, { kind: 'evidence', step: join.id });
  const told = await sql<{ moved: string; all: string }>(`
    select count(*) as all, count(*) filter (where r.district_code = 'OV-3') moved
    from coop.harvests h join coop.apiaries a on lower(a.code) = lower(btrim(h.apiary_code, ' '))
    join coop.district_regions r on r.district_code = a.district_code and h.picked_on >= r.valid_from
      and (r.valid_until is null or h.picked_on <= r.valid_until)`);
  expect([evidence.met, evidence.left.partners.map((each) => each.partners)]).toEqual([told.all, ['1']]);
  const done = await run(analyst, dataset, 'full');
  expect(done.result?.rows).toBe(told.all);
  expect(Number(told.moved)).toBeGreaterThan(0);
});

/** What is shown for a line of a join's ledger, or for a key of it. */
async function rowsBehind(dataset: DatasetBody, step: string, inspection: object) {
  const asked = { dataset: dataset.id, revision: dataset.revision, step, size: 'full', slot: unique('slot'), values: {} };
  const started = await analyst.post<{ id: string }>('/runs', { ...asked, inspection: { kind: 'outcome', ...inspection } });
  return finished(started.id);
}

test('rows of a line of the ledger are those it counts', async () => {
  const dataset = await demoDataset('Harvests and their apiaries');
  const [join] = joinsIn(dataset);
  const evidence = await ask(dataset, { kind: 'evidence', step: join?.id ?? '' });
  for (const [outcome, rows] of [
    ['left null', evidence.left.nulls.rows],
    ['left alone', evidence.left.alone.rows],
  ] as const) {
    const done = await rowsBehind(dataset, join?.id ?? '', { outcome });
    expect([outcome, done.result?.rows]).toEqual([outcome, rows]);
    const shown = await rowsOf(analyst, done.result?.id ?? '', 'offset=0&limit=5');
    expect(shown.every((each) => (outcome === 'left null') === (each[1] === null))).toBe(true);
  }
});

test('rows of a worst key and of a near miss are as many as they are told to be', async () => {
  const priced = await demoDataset('Harvests priced by grade');
  const [join] = joinsIn(priced);
  const { worst } = await ask(priced, { kind: 'evidence', step: join?.id ?? '' });
  const [key] = worst;
  const several = await rowsBehind(priced, join?.id ?? '', { outcome: 'several', key: { values: key?.values } });
  expect(String(several.result?.rows)).toBe(key?.rows);
  const plain = await demoDataset('Harvests and their apiaries');
  const [own] = joinsIn(plain);
  const pair = own?.pairs[0]?.id ?? '';
  const { pairs } = await ask(plain, { kind: 'near misses', step: own?.id ?? '', pair });
  const [miss] = pairs;
  const missed = await rowsBehind(plain, own?.id ?? '', { outcome: 'left alone', key: { pair, values: [miss?.left] } });
  expect(String(missed.result?.rows)).toBe(miss?.rows);
  const unsuited = rowsBehind(plain, own?.id ?? '', { outcome: 'several', key: { values: ['one', 'too many'] } });
  await expect(unsuited).rejects.toThrow('inspection-unsuited');
});

async function finished(id: string) {
  for (;;) {
    const body = await analyst.get<{ state: string; result: { id: string; rows: string } | null }>(`/runs/${id}`);
    if (body.state !== 'queued' && body.state !== 'running') return body;
  }
}

test('a row is followed through a join: to no partner, to several, and back to its source rows', async () => {
  const priced = await demoDataset('Harvests priced by grade');
  const [join] = joinsIn(priced);
  const table = priced.definition.steps.find((each) => each.kind === 'table' && each.table === 'harvests');
  const id = table?.kind === 'table' ? table.fields.find((each) => each.column === 'id')?.id : undefined;
  const two = await sql<{ id: string }>(
    "select id from coop.harvests where picked_on between '2024-04-01' and '2024-09-30' and floral_source = 'heather' and grade is not null limit 1",
  );
  const followed = await ask(priced, { kind: 'follow', step: join?.id ?? '', identity: [{ field: id ?? '', value: two.id }] });
  expect(followed.steps.at(-1)).toMatchObject({ arrived: 1, present: 2 });
  const plain = await demoDataset('Harvests and their apiaries');
  const [own] = joinsIn(plain);
  const read = plain.definition.steps.find((each) => each.kind === 'table' && each.table === 'harvests');
  const key = read?.kind === 'table' ? read.fields.find((each) => each.column === 'id')?.id : undefined;
  const alone = await sql<{ id: string; code: string }>(
    "select id, apiary_code code from coop.harvests where apiary_code like 'ZZ-%' limit 1",
  );
  const lost = await ask(plain, { kind: 'follow', step: own?.id ?? '', identity: [{ field: key ?? '', value: alone.id }] });
  expect(lost.steps.at(-1)).toMatchObject({
    present: 1,
    kept: [{ because: 'no partner', values: [{ name: 'apiary_code', value: alone.code }] }],
  });
});

test('bringing in a table, a wrong pair of types, and a second source are answered in place', async () => {
  const source = await demoSource(analyst);
  const dataset = await datasetOf(analyst, source, 'harvests', 'coop', ['id', 'kilos']);
  const described = await analyst.get<ReadTable>(`/sources/${source}/tables/coop/members`);
  const table = tableStep(() => unique('f'), source, described);
  const after = dataset.definition.steps[0]?.id ?? '';
  const { edits, step } = bringInEdits(() => unique('j'), dataset.definition, after, { table }, NOTHING_KNOWN);
  const joined = await edit(analyst, dataset, ...edits);
  const own = joinsIn(joined)[0] as JoinStep;
  const text = (name: string) => ({ text: name, refs: [] });
  const wrong = comparedPair({ id: 'p', left: text('kilos'), right: text('number') });
  const broken = await edit(analyst, joined, addItem(own, 'pairs', wrong, 0));
  const refused = await analyst.ask<ProblemBody>('POST', '/answers', {
    dataset: broken.id,
    revision: broken.revision,
    values: {},
    question: { kind: 'evidence', step },
  });
  expect([refused.status, refused.body.problems[0]?.code]).toEqual([422, 'pair-number']);
  expect(checkTrail(broken.definition).steps.at(-1)?.blocked).toBe(true);

  const steward = await cendra.signIn('steward');
  const other = await steward.post<{ id: string }>('/sources', { name: 'Other orders', mark: 'OT', ...postgresqlAt() });
  await steward.ask('PUT', `/sources/${other.id}/access`, { people: [analyst.id] });
  const elsewhere = tableStep(() => unique('f'), other.id, described);
  const second = bringInEdits(() => unique('j'), dataset.definition, after, { table: elsewhere }, NOTHING_KNOWN);
  const apart = await analyst.post<DatasetBody>(`/datasets/${dataset.id}/copies`);
  const [first] = apart.definition.steps;
  const meets = bringInEdits(() => unique('j'), apart.definition, first?.id ?? '', { table: elsewhere }, NOTHING_KNOWN);
  expect(second.edits).toHaveLength(2);
  const mixed = await edit(analyst, apart, ...meets.edits);
  const answer = await analyst.ask<ProblemBody>('POST', '/answers', {
    dataset: mixed.id,
    revision: mixed.revision,
    values: {},
    question: { kind: 'evidence', step: meets.step },
  });
  expect([answer.status, answer.body.problems[0]?.code]).toEqual([422, 'sources-apart']);
  expect(JSON.stringify(answer.body)).toContain('Other orders');
});

describe('a join that is asked too much', () => {
  const text = (name: string) => ({ text: name, refs: [] });

  /** A dataset of a table with others brought in by a pair each; later ones stand behind those before. */
  async function joinedBy(
    first: string,
    taken: readonly string[],
    brought: readonly (readonly [table: string, left: string, right: string])[],
  ) {
    const source = await demoSource(analyst);
    const begun = await datasetOf(analyst, source, first, 'coop', taken);
    let definition = begun.definition;
    const edits: Edit[] = [];
    const apply = (...some: readonly Edit[]) => {
      edits.push(...some);
      definition = applyEdits(definition, some);
    };
    for (const [table, left, right] of brought) {
      const described = await analyst.get<ReadTable>(`/sources/${source}/tables/coop/${table}`);
      const partner = tableStep(() => unique('f'), source, described);
      const made = bringInEdits(() => unique('j'), definition, definition.result ?? '', { table: partner }, NOTHING_KNOWN);
      apply(...made.edits);
      const step = ofKind(
        'join',
        definition.steps.find((each) => each.id === made.step),
      ) as JoinStep;
      const name = step.fields.find((each) => each.from === partner.fields.find(({ column }) => column === right)?.id)?.name ?? '';
      apply(addItem(step, 'pairs', comparedPair({ id: unique('p'), left: text(left), right: text(`"${name}"`) }), 0));
      const now = ofKind(
        'join',
        definition.steps.find((each) => each.id === made.step),
      ) as JoinStep;
      apply({ kind: 'set step', step: now.id, property: 'taken', from: [], to: now.fields.slice(0, 2).map((each) => each.id) });
    }
    return edit(analyst, begun, ...edits);
  }

  test('forty joins in one trail run as one statement, and names that clash forty times are told apart', async () => {
    const dataset = await joinedBy(
      'apiaries',
      ['code', 'member_id'],
      Array.from({ length: 40 }, () => ['members', 'member_id', 'id'] as const),
    );
    const done = await run(analyst, dataset, 'full');
    expect(done.result?.rows).toBe('310');
    const names = done.result?.columns.map((each) => each.name) ?? [];
    expect(new Set(names).size).toBe(names.length);
    expect(names.length).toBe(82);
  });

  test('an empty side, a key that is null everywhere and a key that fails in rows are said, and nothing is lost', async () => {
    const dataset = await joinedBy('inspections', ['id', 'varroa_count'], [['hives', 'hive_id', 'id']]);
    const [join] = joinsIn(dataset);
    const [pair] = join?.pairs ?? [];
    if (!join || pair?.kind !== 'compared') throw new Error('it joins by a pair');
    const failing = { ...pair, left: text('cast(varroa_count as integer)') };
    const asked = await ask(dataset, { kind: 'evidence', step: join.id, tried: { pairs: [failing] } });
    const told = await sql<{ failed: string }>("select count(*) failed from coop.inspections where varroa_count = 'n/a'");
    expect(asked.left.failed).toBe(told.failed);
    expect(Number(asked.left.nulls.rows)).toBeGreaterThanOrEqual(Number(told.failed));
    const never = await ask(dataset, {
      kind: 'evidence',
      step: join.id,
      tried: { pairs: [{ ...pair, left: text('nullif(hive_id, hive_id)') }] },
    });
    expect([never.met, never.left.nulls.rows]).toEqual(['0', never.left.all.rows]);
    const empty = await edit(analyst, dataset, {
      kind: 'add step',
      step: {
        id: 'none',
        kind: 'criteria',
        name: '',
        off: false,
        inputs: [join.inputs[1] ?? ''],
        head: 'every one',
        clauses: [{ id: 'x', kind: 'expression', off: false, expression: text('id < 0') }],
      },
      at: { after: dataset.definition.steps.at(-2)?.id ?? null, before: join.id },
      heirs: [{ step: join.id, slot: 1, instead: join.inputs[1] ?? null }],
    });
    const nobody = await ask(empty, { kind: 'evidence', step: join.id });
    expect([nobody.met, nobody.right.all.rows, nobody.left.alone.rows]).toEqual(['0', '0', nobody.left.all.rows]);
  });

  test('every row with every other is counted before anything runs, however many that is', async () => {
    const dataset = await joinedBy('scale_readings', ['reading_no'], [['inspections', 'reading_no', 'id']]);
    const [join] = joinsIn(dataset);
    const { met, left, right } = await ask(dataset, { kind: 'evidence', step: join?.id ?? '', tried: { pairs: [], everyPair: true } });
    expect(BigInt(met)).toBe(BigInt(left.all.rows) * BigInt(right.all.rows));
    const none = await edit(analyst, dataset, {
      kind: 'remove item',
      step: join?.id ?? '',
      list: 'pairs',
      item: join?.pairs[0] ?? { id: '' },
      at: { after: null, before: null },
    });
    expect(checkTrail(none.definition).problems.map((each) => each.code)).toContain('pairs-missing');
  });
});
