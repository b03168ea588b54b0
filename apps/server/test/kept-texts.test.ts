import type { DatasetBody, Person } from './support/cendra';
import { Cendra, run } from './support/cendra';
import { withSuperuser } from './support/cluster';
import { demoSource, edit } from './support/datasets';
import { described, sqlOf } from './support/texts';
import { KEPT_TEXTS } from '../src/demo/kept-texts';

interface Line {
  readonly id: string;
  readonly name: string;
  readonly withheld: boolean;
}
interface Kept {
  readonly id: string;
  readonly name: string;
  readonly version: number;
  readonly versions: readonly { readonly number: number; readonly text: string; readonly madeBy: string }[];
  readonly uses: readonly { readonly id: string; readonly title: string; readonly version: number }[];
  readonly alike: readonly { readonly name: string; readonly share: number }[];
}

let cendra: Cendra;
let analyst: Person;
let outsider: Person;
let steward: Person;
let source: string;
beforeAll(async () => {
  cendra = await Cendra.start();
  [analyst, outsider, steward] = [await cendra.signIn('analyst'), await cendra.signIn('analyst2'), await cendra.signIn('steward')];
  source = await demoSource(analyst);
});
afterAll(() => cendra.stop());

const keep = (given: object = {}) =>
  analyst.post<Kept>('/kept-texts', { source, name: 'Harvests of a day', note: 'by hand', tags: [], text: 'select 1 as one', ...given });
const names = async (person: Person, find?: string) =>
  (await person.get<Line[]>(`/kept-texts${find === undefined ? '' : `?find=${encodeURIComponent(find)}`}`)).map((each) => each.name);

test('the demo has five, of which two are alike and each is told of the other', async () => {
  expect(await names(analyst)).toEqual([...KEPT_TEXTS.map((each) => each.name)].sort());
  const lines = await analyst.get<Line[]>('/kept-texts?find=settlement new');
  expect(lines).toHaveLength(1);
  const kept = await analyst.get<Kept>(`/kept-texts/${lines[0]?.id}`);
  expect(kept.alike).toMatchObject([{ name: 'Settlement of members' }]);
  expect(kept.alike[0]?.share).toBeLessThan(1);
});

test.each(KEPT_TEXTS.map((each) => [each.name, each.versions] as const))(
  '%s: the demo’s source reads it as it is',
  async (_name, versions) => {
    for (const text of versions) expect((await described(analyst, source, text)).problems).toEqual([]);
  },
);

test('what only differs in layout, case and comments says the same', async () => {
  const first = await keep({ name: 'Plain', text: 'select code, name from coop.apiaries where shared' });
  const other = await keep({ name: 'Laid out', text: '-- the shared ones\nSELECT code,\n  name FROM coop.apiaries\nWHERE shared' });
  expect((await analyst.get<Kept>(`/kept-texts/${first.id}`)).alike).toMatchObject([{ name: 'Laid out', share: 1 }]);
  for (const { id } of [first, other]) expect((await analyst.ask('DELETE', `/kept-texts/${id}`)).status).toBe(204);
});

test('is found by every word of its name, note, tags or text', async () => {
  const { id } = await keep({ name: 'Wax', note: 'melted', tags: ['rooftop'], text: 'select kind from coop.hives' });
  for (const words of ['wax', 'MELTED', 'roof', 'coop.hives', 'wax hives rooftop']) expect(await names(analyst, words)).toEqual(['Wax']);
  expect(await names(analyst, 'wax nectar')).toEqual([]);
  await analyst.ask('DELETE', `/kept-texts/${id}`);
});

describe('a changed text', () => {
  test('is a new version, and the old one stays; the same words make none', async () => {
    const { id } = await keep();
    const change = (given: object) => analyst.ask<Kept>('PATCH', `/kept-texts/${id}`, given);
    expect((await change({ version: 1, text: 'select 1 as one', note: 'told better' })).body.version).toBe(1);
    const { body } = await change({ version: 1, text: 'select 2 as two' });
    expect(body.versions.map(({ number, text, madeBy }) => [number, text, madeBy])).toEqual([
      [2, 'select 2 as two', 'Barnaby Quill'],
      [1, 'select 1 as one', 'Barnaby Quill'],
    ]);
  });

  test('of two who change it at once, one is told, and nothing is overwritten', async () => {
    const { id } = await keep();
    const answers = await Promise.all(
      ['a', 'b'].map((word) =>
        analyst.ask<{ problems: unknown }>('PATCH', `/kept-texts/${id}`, { version: 1, text: `select '${word}' as x` }),
      ),
    );
    expect(answers.map((each) => each.status).sort()).toEqual([200, 409]);
    expect(answers.find((each) => each.status === 409)?.body.problems).toMatchObject([{ code: 'changed-meanwhile' }]);
    expect((await analyst.get<Kept>(`/kept-texts/${id}`)).version).toBe(2);
  });

  test('is offered where it was taken: the dataset says which version it has, and the text where it is used', async () => {
    const kept = await keep({ name: 'Kinds of hives', text: 'select kind from coop.hives' });
    const from = { text: kept.id, version: 1 };
    const made = await analyst.post<DatasetBody>('/datasets', { source, text: 'select kind from coop.hives', kept: from });
    expect(sqlOf(made).kept).toEqual(from);
    await analyst.ask('PATCH', `/kept-texts/${kept.id}`, { version: 1, text: 'select distinct kind from coop.hives' });
    const now = await analyst.get<Kept>(`/kept-texts/${kept.id}`);
    expect(now.uses).toEqual([{ id: made.id, title: 'SQL over hives', version: 1 }]);
    const step = sqlOf(made).id;
    const taken = await edit(analyst, made, { kind: 'set step', step, property: 'kept', from, to: { ...from, version: 2 } });
    expect((await analyst.get<Kept>(`/kept-texts/${kept.id}`)).uses).toMatchObject([{ version: 2 }]);
    await edit(analyst, taken, { kind: 'set step', step, property: 'kept', from: { ...from, version: 2 }, to: undefined });
    expect((await analyst.get<Kept>(`/kept-texts/${kept.id}`)).uses).toEqual([]);
  });
});

describe('who lacks its source', () => {
  test('sees name and note, and nothing else of it', async () => {
    const { id } = await keep({ name: 'Secret recipe', note: 'ask me', tags: ['hidden'], text: 'select 4711 as secret' });
    const lines = await outsider.get<Line[]>('/kept-texts?find=recipe');
    expect(lines).toEqual([{ id, name: 'Secret recipe', note: 'ask me', withheld: true }]);
    for (const words of ['hidden', '4711']) expect(await names(outsider, words)).toEqual([]);
    for (const [method, body] of [['GET'], ['PATCH', { version: 1, name: 'Mine' }], ['DELETE']] as const)
      expect((await outsider.ask(method, `/kept-texts/${id}`, body)).status).toBe(404);
    expect((await outsider.ask('POST', '/kept-texts', { source, name: 'x', note: '', tags: [], text: 'select 1' })).status).toBe(404);
    expect((await analyst.get<Kept>(`/kept-texts/${id}`)).name).toBe('Secret recipe');
  });

  test('points none to it', async () => {
    const { id } = await keep();
    const answer = await analyst.ask('PATCH', `/kept-texts/${id}`, { version: 1, source: '00000000-0000-4000-8000-000000000000' });
    expect(answer.status).toBe(404);
  });
});

test('a text whose source was removed stays, for a steward to point it to another', async () => {
  const { id } = await keep({ name: 'Left behind' });
  await withSuperuser(cendra.database, (client) => client.query('update kept_text set source_id = gen_random_uuid() where id = $1', [id]));
  expect((await analyst.ask('GET', `/kept-texts/${id}`)).status).toBe(404);
  expect((await steward.ask('PATCH', `/kept-texts/${id}`, { version: 1, source })).status).toBe(200);
  expect((await analyst.get<Kept>(`/kept-texts/${id}`)).name).toBe('Left behind');
});

test.each([
  ['without a name', { name: '' }],
  ['without a text', { text: '' }],
  ['of more than 250 000 characters', { text: 'x'.repeat(250_001) }],
  ['with an empty tag', { tags: [''] }],
  ['of no source', { source: 'coop' }],
])('one %s is refused, naming what is wrong', async (_what, given) => {
  const { status, body } = await analyst.ask<{ problems: { place: object }[] }>('POST', '/kept-texts', {
    source,
    name: 'Good',
    note: '',
    tags: [],
    text: 'select 1',
    ...given,
  });
  expect(status).toBe(400);
  expect(body.problems[0]?.place).toMatchObject({ pointer: `/${Object.keys(given)[0]}` });
});

test('readers have no shelf', async () => {
  const reader = await cendra.signIn('reader');
  expect((await reader.ask('GET', '/kept-texts')).status).toBe(403);
});

test('a dataset begun from one runs', async () => {
  const [line] = await analyst.get<Line[]>('/kept-texts?find=without an apiary');
  const kept = await analyst.get<Kept>(`/kept-texts/${line?.id}`);
  const text = kept.versions[0]?.text ?? '';
  const made = await analyst.post<DatasetBody>('/datasets', { source, text, kept: { text: kept.id, version: kept.version } });
  const answer = await described(analyst, source, text);
  const fields = answer.columns.map(({ named: _named, ...each }, at) => ({ id: `f${at}`, name: each.column, role: 'attribute', ...each }));
  const taken = await edit(analyst, made, {
    kind: 'set step',
    step: sqlOf(made).id,
    property: 'fields',
    from: [],
    to: fields.map(({ id, name, column, sourceType, type, looseText, role }) => ({ id, name, column, sourceType, type, looseText, role })),
  });
  const done = await run(analyst, taken, 'full');
  expect(done).toMatchObject({ state: 'done' });
  const [own] = await withSuperuser(
    'cooperative',
    async (client) =>
      (
        await client.query<{ n: string }>(
          'select count(*) n from coop.harvests h where not exists (select from coop.apiaries a where a.code = h.apiary_code)',
        )
      ).rows,
  );
  expect(String(done.result?.rows)).toBe(own?.n);
});
