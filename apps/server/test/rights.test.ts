import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Edit } from '@cendra/core';
import { addStepAfter, applyEdits, removeStepEdit } from '@cendra/core';
import type { DatasetBody, Person, RunBody } from './support/cendra';
import { Cendra, eventually, postgresqlAt, rowsOf, run } from './support/cendra';
import { askingWith, datasetOf, demoSource, edit, parameter, writtenCriteria } from './support/datasets';
import { unique } from './support/cluster';

/** Who lacks the source reaches nothing of it, by any route; and taking it away works at once. */

const document = JSON.parse(readFileSync(join(process.cwd(), 'apps/server/openapi.json'), 'utf8')) as {
  paths: Record<string, Record<string, { parameters?: { name: string; in: string }[] }>>;
};

let cendra: Cendra;
let analyst: Person;
let outsider: Person;
let steward: Person;
let reader: Person;
let source: string;
let dataset: DatasetBody;
let done: RunBody;
let kept: { readonly id: string };
const SECRET_VALUE = '4711.25';

beforeAll(async () => {
  cendra = await Cendra.start();
  [analyst, outsider, steward, reader] = [
    await cendra.signIn('analyst'),
    await cendra.signIn('analyst2'),
    await cendra.signIn('steward'),
    await cendra.signIn('reader'),
  ];
  source = await demoSource(analyst);
  const made = await datasetOf(analyst, source, 'harvests');
  dataset = await edit(
    analyst,
    made,
    ...askingWith(made.definition, 'kilos', 'below', parameter({ name: 'most', startsAs: [SECRET_VALUE] })),
  );
  done = await run(analyst, dataset, 'head');
  kept = await analyst.post('/kept-texts', { source, name: 'Prices', note: '', tags: [], text: `select ${SECRET_VALUE}` });
});
afterAll(() => cendra.stop());

/** Every route of the API with the ids of what the outsider may not see filled in. */
function everyRoute(): readonly (readonly [method: string, path: string])[] {
  return Object.entries(document.paths).flatMap(([path, methods]) =>
    Object.keys(methods).map((method) => {
      const owner = path.split('/')[2];
      const id =
        { sources: source, datasets: dataset.id, runs: done.id, results: done.result?.id, 'kept-texts': kept.id }[owner ?? ''] ?? '';
      const filled = path
        .replace('/api', '')
        .replace('{id}', id)
        .replace('{schema}', 'coop')
        .replace('{table}', 'harvests')
        .replace('{parameter}', 'p-most')
        .replace('{key}', '0'.repeat(24));
      return [method.toUpperCase(), filled] as const;
    }),
  );
}

const QUERY: Record<string, string> = {
  rows: '?offset=0&limit=10',
  lines: '?offset=0&limit=10',
  cell: '?row=0&field=x',
  find: '?text=x&from=0',
  profile: '?field=x',
  file: '?format=csv',
};
const BODIES: Record<string, () => object> = {
  'POST /datasets': () => ({ source, schema: 'coop', table: 'harvests' }),
  'POST /kept-texts': () => ({ source, name: 'x', note: '', tags: [], text: 'select 1' }),
  'POST /runs': () => ({
    dataset: dataset.id,
    revision: dataset.revision,
    step: dataset.definition.steps[1]?.id,
    size: 'head',
    values: {},
    slot: 's',
  }),
  'POST /answers': () => ({
    dataset: dataset.id,
    revision: dataset.revision,
    values: {},
    question: { kind: 'follow', step: dataset.definition.steps[1]?.id, identity: [{ field: 'x', value: '1' }] },
  }),
};

/** Routes that belong to everybody, or answer with what the person may see. */
const OPEN = [
  '/sign-in',
  '/sign-out',
  '/me',
  '/demo-sign-ins',
  '/health',
  'GET /datasets',
  'GET /datasets/deleted',
  'GET /sources',
  'GET /runs',
  // Name and note are for everybody.
  'GET /kept-texts',
  // Where links may lead is of no source.
  'GET /links/allowed',
];
const isOpen = (method: string, path: string) => OPEN.includes(path) || OPEN.includes(`${method} ${path}`);

test('every route refuses an analyst who lacks the source', async () => {
  const answered: string[] = [];
  for (const [method, path] of everyRoute()) {
    if (isOpen(method, path) || path === `/datasets/${dataset.id}`) continue;
    const last = path.split('/').at(-1) ?? '';
    const body =
      method === 'GET' || method === 'DELETE'
        ? undefined
        : (BODIES[`${method} ${path}`]?.() ??
          (path.includes('/last-values/')
            ? { values: ['1'] }
            : path.endsWith('/edits')
              ? { editId: unique('edit'), baseRevision: 1, edits: [{ kind: 'set title', from: dataset.definition.title, to: 'x' }] }
              : path.endsWith('/proofs')
                ? { dataset: dataset.id, revision: 1 }
                : {}));
    const answer = await outsider.ask(method, `${path}${method === 'GET' ? (QUERY[last] ?? '') : ''}`, body);
    if (![403, 404].includes(answer.status)) answered.push(`${method} ${path}: ${answer.status}`);
  }
  expect(answered).toEqual([]);
});

test('every route but the open ones refuses a reader, and somebody not signed in', async () => {
  const answered: string[] = [];
  for (const [method, path] of everyRoute()) {
    if (isOpen(method, path) && !path.startsWith('/datasets') && !path.startsWith('/sources') && !path.startsWith('/runs')) continue;
    const asReader = await reader.ask(method, path, method === 'GET' || method === 'DELETE' ? undefined : {});
    const asNobody = await fetch(`${cendra.address}/api${path}`, {
      method,
      headers: { 'content-type': 'application/json' },
      ...(method === 'GET' || method === 'DELETE' ? {} : { body: '{}' }),
    });
    if (asReader.status !== 403 || asNobody.status !== 401) answered.push(`${method} ${path}: ${asReader.status}, ${asNobody.status}`);
  }
  expect(answered).toEqual([]);
});

test('the lists show nothing of it, and the dataset only its shape', async () => {
  expect((await outsider.get<unknown[]>('/sources')).length).toBe(0);
  expect((await outsider.get<unknown[]>('/runs')).length).toBe(0);
  const shape = await outsider.ask<DatasetBody>('GET', `/datasets/${dataset.id}`);
  expect(shape.body.withoutValues).toBe(true);
  expect(shape.body.definition.steps).toHaveLength(2);
  expect(shape.text).not.toContain(SECRET_VALUE);
});

test('the event stream tells the outsider nothing of runs', async () => {
  const heard: Record<string, string> = {};
  const leaving = new AbortController();
  const listen = async (name: string, person: Person) => {
    const response = await fetch(`${cendra.address}/api/events`, { headers: { cookie: person.cookie }, signal: leaving.signal });
    const decoder = new TextDecoder();
    heard[name] = '';
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) heard[name] += decoder.decode(chunk, { stream: true });
  };
  const listening = [listen('outsider', outsider), listen('analyst', analyst), listen('reader', reader)].map((each) =>
    each.catch(() => undefined),
  );
  await eventually('all listen', async () => Object.values(heard).filter((each) => each.includes('hello')).length === 3);
  await run(analyst, dataset, 'head');
  await edit(analyst, dataset, { kind: 'set title', from: dataset.definition.title, to: dataset.definition.title });
  await eventually(
    'the analyst hears of the run and of the revision',
    async () => heard.analyst?.includes('"state":"done"') && heard.analyst.includes('event: dataset'),
  );
  leaving.abort();
  await Promise.all(listening);
  expect(heard.outsider).not.toContain('event: run');
  expect(heard.reader).not.toContain('event:');
});

test('another analyst with the source does not see one’s runs, but may read the same result', async () => {
  await steward.ask('PUT', `/sources/${source}/access`, { people: [analyst.id, outsider.id] });
  expect((await outsider.ask('GET', `/runs/${done.id}`)).status).toBe(404);
  expect((await rowsOf(outsider, done.result?.id ?? '')).length).toBe(500);
  await steward.ask('PUT', `/sources/${source}/access`, { people: [analyst.id] });
});

test('what was typed against a source stays with it when no step reads it any more', async () => {
  const other = await steward.post<{ id: string }>('/sources', { name: unique('source'), mark: 'ot', ...postgresqlAt() });
  await steward.ask('PUT', `/sources/${other.id}/access`, { people: [outsider.id] });
  const kept = await datasetOf(steward, other.id, 'regions');
  const typed = await datasetOf(steward, source, 'harvests');
  const [step] = typed.definition.steps;
  if (!step) throw new Error('a dataset begins with a table step');
  const read = await edit(steward, kept, addStepAfter(kept.definition, null, step));
  const criteria = writtenCriteria(typed.definition, `kilos < ${SECRET_VALUE}`) as Edit & { kind: 'add step' };
  const added = addStepAfter(read.definition, step.id, criteria.step);
  const asked = await edit(steward, read, added);
  const first = removeStepEdit(asked.definition, added.step.id) as Edit;
  const second = removeStepEdit(applyEdits(asked.definition, [first]), step.id) as Edit;
  await edit(steward, asked, first, second);
  const history = await outsider.ask<{ sentence: string; withheld: boolean }[]>('GET', `/datasets/${kept.id}/revisions`);
  expect(history.text).not.toContain(SECRET_VALUE);
  expect(history.body.map((each) => each.withheld)).toEqual([true, true, true, false, false]);
  expect((await outsider.ask('GET', `/datasets/${kept.id}?revision=4`)).text).not.toContain(SECRET_VALUE);
  expect((await outsider.ask('DELETE', `/datasets/${kept.id}`)).status).toBe(403);
  const own = await steward.ask<{ sentence: string }[]>('GET', `/datasets/${kept.id}/revisions`);
  expect(own.text).toContain(SECRET_VALUE);
  expect((await steward.ask('DELETE', `/datasets/${kept.id}`)).status).toBe(204);
});

test('taking the source away closes rows already read, at once, and another login closes them for all', async () => {
  const path = `/results/${done.result?.id}/rows?offset=0&limit=1`;
  expect((await analyst.ask('GET', path)).status).toBe(200);
  await steward.ask('PUT', `/sources/${source}/access`, { people: [] });
  for (const refused of [path, `/results/${done.result?.id}/file?format=csv`, `/runs/${done.id}`])
    expect((await analyst.ask('GET', refused)).status).toBe(404);
  await steward.ask('PUT', `/sources/${source}/access`, { people: [analyst.id] });
  expect((await analyst.ask('GET', path)).status).toBe(200);
  await steward.ask('PATCH', `/sources/${source}`, { settings: { user: 'somebody_else' }, secret: 'x' });
  expect((await analyst.ask('GET', path)).status).toBe(404);
});
