import type { Answers, Clause, Definition, Parameter, Question } from '@cendra/core';
import { addParameter, addStepAfter } from '@cendra/core';
import type { DatasetBody, Person, ProblemBody } from './support/cendra';
import { Cendra, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, fieldOf, parameter } from './support/datasets';

/** Questions about rows, over HTTP and against the demo's PostgreSQL, with figures counted apart. */

let cendra: Cendra;
let analyst: Person;
let source: string;
let harvests: DatasetBody;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
  harvests = await datasetOf(analyst, source, 'harvests');
});
afterAll(() => cendra.stop());

const inDemo = async <T extends object>(sql: string) => (await withSuperuser('cooperative', (client) => client.query<T>(sql))).rows;

const written = (text: string): Clause => ({ id: unique('clause'), kind: 'expression', off: false, expression: { text, refs: [] } });
/** A dataset of its own: harvests, kept by some clauses. */
async function withCriteria(...clauses: Clause[]): Promise<DatasetBody> {
  return criteriaBehind(await datasetOf(analyst, source, 'harvests'), ...clauses);
}
function criteriaBehind(of: DatasetBody, ...clauses: Clause[]): Promise<DatasetBody> {
  const after = lastStep(of.definition);
  const step = {
    id: unique('step'),
    kind: 'criteria' as const,
    name: '',
    off: false,
    inputs: [after],
    head: 'every one' as const,
    clauses,
  };
  return edit(analyst, of, addStepAfter(of.definition, after, step));
}
const lastStep = (definition: Definition) => definition.steps.at(-1)?.id ?? '';
const asking = <Q extends Question>(of: DatasetBody, question: Q, values: Record<string, string[]> = {}, person = analyst) =>
  person.post<Answers[Q['kind']]>('/answers', { dataset: of.id, revision: of.revision, values, question });
const counted = async (sql: string) => (await inDemo<{ n: string }>(`select count(*) n from coop.harvests where ${sql}`))[0]?.n;

test('clauses are counted as the database counts them', async () => {
  const clauses = [written('kilos >= 20'), written("grade = 'A'"), written('moisture < 18')];
  const dataset = await withCriteria(...clauses);
  const counts = await asking(dataset, { kind: 'clauses', step: lastStep(dataset.definition) });
  expect(counts.left).toBe(await counted(`kilos >= 20 and grade = 'A' and moisture < 18`));
  expect(counts.clauses.map((each) => [each.alone, each.left, each.givesBack, each.nulls])).toEqual([
    [
      await counted('kilos >= 20'),
      await counted('kilos >= 20'),
      await counted(`(kilos < 20 or kilos is null) and grade = 'A' and moisture < 18`),
      await counted('kilos is null'),
    ],
    [
      await counted(`grade = 'A'`),
      await counted(`kilos >= 20 and grade = 'A'`),
      await counted(`kilos >= 20 and grade is distinct from 'A' and moisture < 18`),
      await counted('grade is null'),
    ],
    [
      await counted('moisture < 18'),
      counts.left,
      await counted(`kilos >= 20 and grade = 'A' and (moisture >= 18 or moisture is null)`),
      await counted('moisture is null'),
    ],
  ]);
});

test('a run of criteria brings its clause counts, also where more than ten are summed, and why nothing is left', async () => {
  const many = Array.from({ length: 12 }, (_, index) => written(`kilos >= ${index}`));
  const dataset = await withCriteria(...many, written("grade = 'A'"), written("grade = 'B'"));
  const { clauses } = await run(analyst, dataset, 'head');
  if (!clauses) throw new Error('the run counted no clauses');
  expect(clauses.left).toBe('0');
  expect(clauses.clauses[11]?.alone).toBe(await counted('kilos >= 11'));
  expect(clauses.clauses[12]?.left).toBe(await counted(`kilos >= 11 and grade = 'A'`));
  expect(clauses.excluding?.smallest).toBe(false);
  expect(clauses.excluding?.clauses).toHaveLength(2);
  expect(clauses.excluding?.examples[0]?.values.some((each) => each.name === 'grade')).toBe(true);
});

test('values are searched at the source, and one that is nowhere has nearest ones', async () => {
  const dataset = await withCriteria();
  const step = lastStep(dataset.definition);
  const field = fieldOf(dataset.definition, 'floral_source');
  const [most] = await inDemo<{ value: string; n: string }>(
    'select floral_source as value, count(*) n from coop.harvests where floral_source is not null group by 1 order by 2 desc, 1 limit 1',
  );
  const offered = await asking(dataset, { kind: 'values', step, field, search: '' });
  expect(offered.values[0]).toEqual({ value: most?.value, label: '', rows: most?.n });
  const part = (most?.value ?? '').slice(1, 4).toUpperCase();
  const found = await asking(dataset, { kind: 'values', step, field, search: part });
  expect(found.values.map((each) => each.value)).toContain(most?.value);
  const misspelt = `${most?.value ?? ''}x`;
  const known = await asking(dataset, { kind: 'known', step, field, values: [misspelt, most?.value ?? ''] });
  expect(known.found.map((each) => each.value)).toEqual([most?.value]);
  expect(known.missing[0]?.nearest[0]?.value).toBe(most?.value);
});

test('a hundred thousand values are asked about as one list', async () => {
  const dataset = await withCriteria();
  const values = Array.from({ length: 100_000 }, (_, index) => String(index + 1));
  const known = await asking(dataset, {
    kind: 'known',
    step: lastStep(dataset.definition),
    field: fieldOf(dataset.definition, 'id'),
    values,
  });
  expect(known.found).toHaveLength(Number(await counted('id between 1 and 100000')));
});

test('choices come from another dataset, narrowed by a parameter, and the first of them is what a parameter starts as', async () => {
  const districts = await datasetOf(analyst, source, 'districts');
  const [code, name, region] = ['code', 'name', 'region_code'].map((column) => fieldOf(districts.definition, column)) as [
    string,
    string,
    string,
  ];
  const parameters: readonly Parameter[] = [
    parameter({ name: 'region', type: 'text', leftBlank: 'condition is off' }),
    parameter({
      name: 'district',
      type: 'text',
      leftBlank: 'condition is off',
      startsBy: 'first choice',
      choices: {
        from: 'dataset',
        dataset: districts.id,
        field: code,
        label: name,
        sorted: 'by value',
        narrowedBy: [{ parameter: 'p-region', field: region }],
      },
    }),
  ];
  const own = await datasetOf(analyst, source, 'harvests');
  const dataset = await edit(analyst, own, ...parameters.map((each, at) => addParameter({ parameters: parameters.slice(0, at) }, each)));
  const expected = await inDemo<{ code: string; name: string; region_code: string }>(
    'select code, name, region_code from coop.districts order by code collate "C"',
  );
  const all = await asking(dataset, { kind: 'choices', parameter: 'p-district', search: '' });
  expect(all.values.map(({ value, label }) => [value, label])).toEqual(expected.map((each) => [each.code, each.name]));
  const [first] = expected;
  const inRegion = expected.filter((each) => each.region_code === first?.region_code).map((each) => each.code);
  const narrowed = await asking(
    dataset,
    { kind: 'choices', parameter: 'p-district', search: '' },
    { 'p-region': [first?.region_code ?? ''] },
  );
  expect(narrowed.values.map((each) => each.value)).toEqual(inRegion);
  const done = await run(analyst, dataset, 'head');
  expect(done.values['p-district']).toEqual([first?.code]);
});

test('a row is followed to the clause that dropped it, and back to its source', async () => {
  const [small] = await inDemo<{ id: string; kilos: string }>(
    'select id::text, kilos::text from coop.harvests where kilos < 5 order by id limit 1',
  );
  const dataset = await withCriteria(written('kilos >= 5'));
  const identity = [{ field: fieldOf(dataset.definition, 'id'), value: small?.id ?? '' }];
  const followed = await asking(dataset, { kind: 'follow', step: lastStep(dataset.definition), identity });
  expect(followed.source.rows).toHaveLength(1);
  expect(followed.source.rows[0]).toContain(small?.kilos);
  expect(followed.steps[1]).toMatchObject({ arrived: 1, present: 0 });
  expect(followed.steps[1]?.dropped[0]).toMatchObject({
    clauses: [{ number: '1', words: 'kilos >= 5' }],
    values: [{ name: 'kilos', value: small?.kilos }],
  });
});

test('rows that share a value are followed by exact counts through every step, however many they are', async () => {
  const steps = ["grade = 'A'", 'kilos >= 20', 'moisture < 18'];
  let dataset = await withCriteria(written('kilos > 0'));
  for (const text of steps) dataset = await criteriaBehind(dataset, written(text));
  const identity = [{ field: fieldOf(dataset.definition, 'picked_on'), value: '2024-07-12' }];
  const followed = await asking(dataset, { kind: 'follow', step: lastStep(dataset.definition), identity });
  const expected: string[] = [];
  for (let at = 0; at <= steps.length + 1; at++)
    expected.push((await counted(["picked_on = '2024-07-12'", 'kilos > 0', ...steps].slice(0, at + 1).join(' and '))) ?? '');
  expect(Number(expected[0])).toBeGreaterThan(20);
  expect(followed.more).toBe(true);
  expect(followed.source.rows).toHaveLength(20);
  expect(followed.steps.map(({ present }) => String(present))).toEqual(expected);
  expect(followed.steps.slice(1).map(({ arrived }) => String(arrived))).toEqual(expected.slice(0, -1));
});

test.each([
  ['no question', { kind: 'magic' }, 400, 'question-wrong'],
  ['a step that is not there', { kind: 'values', step: 'gone', field: 'x', search: '' }, 404, 'step-gone'],
  ['a parameter without choices', { kind: 'choices', parameter: 'gone', search: '' }, 422, 'choices-none'],
  ['too many values', { kind: 'known', step: 'x', field: 'x', values: Array.from({ length: 100_001 }, () => '') }, 400, 'question-wrong'],
])('%s is refused', async (_, question, status, code) => {
  const answer = await analyst.ask<ProblemBody>('POST', '/answers', {
    dataset: harvests.id,
    revision: harvests.revision,
    values: {},
    question,
  });
  expect(answer.status).toBe(status);
  expect(answer.body.problems[0]?.code).toBe(code);
});

test('last values belong to one person, keep the choice, and private ones are not kept', async () => {
  const period = parameter({ name: 'period', type: 'date', takes: 'range' });
  const own = await datasetOf(analyst, source, 'harvests');
  const dataset = await edit(
    analyst,
    own,
    addParameter({ parameters: [] }, period),
    addParameter({ parameters: [period] }, parameter({ name: 'secret', type: 'text', isPrivate: true })),
  );
  const steward = await cendra.signIn('steward');
  const keep = (person: Person, name: string, values: string[]) =>
    person.ask('PUT', `/datasets/${dataset.id}/last-values/p-${name}`, { values });
  expect((await keep(analyst, 'period', ['last 3 months'])).status).toBe(200);
  expect((await keep(steward, 'period', ['this season'])).status).toBe(200);
  const kept = async (person: Person) => (await person.get<{ values: object }>(`/datasets/${dataset.id}/last-values`)).values;
  expect(await kept(analyst)).toEqual({ 'p-period': ['last 3 months'] });
  expect(await kept(steward)).toEqual({ 'p-period': ['this season'] });
  expect((await keep(analyst, 'secret', ['x'])).status).toBe(422);
  expect((await keep(analyst, 'gone', ['x'])).status).toBe(404);
});

test('a text of which first rows brought the beginning is asked of the source by the key of its row', async () => {
  const members = await datasetOf(analyst, source, 'members', 'coop', ['id', 'note']);
  const step = lastStep(members.definition);
  const [key, note] = [fieldOf(members.definition, 'id'), fieldOf(members.definition, 'note')];
  const ask = (value: string) => asking(members, { kind: 'text', step, field: note, identity: [{ field: key, value }] });
  const [whole] = await inDemo<{ note: string }>('select note from coop.members where id = 58');
  expect(whole?.note.length).toBeGreaterThan(100_000);
  expect(await ask('58')).toEqual({ text: whole?.note, length: String(whole?.note.length) });
  expect(await ask('40')).toEqual({ text: '', length: '0' });
  // Values that tell no row, or several, give no text.
  for (const [field, value] of [
    [key, '999999'],
    [note, ''],
  ] as const) {
    const question = { kind: 'text', step, field: note, identity: [{ field, value }] };
    const refused = await analyst.ask<ProblemBody>('POST', '/answers', {
      dataset: members.id,
      revision: members.revision,
      values: {},
      question,
    });
    expect([refused.status, refused.body.problems[0]?.code]).toEqual([422, 'row-untold']);
  }
});
