import type { DatasetBody, Person, ProblemBody } from '../support/cendra';
import { Cendra } from '../support/cendra';
import { unique } from '../support/cluster';
import { datasetOf, demoSource } from '../support/datasets';

/** Requests made to break something are refused with what is wrong with them; none is answered with "try again". */

let cendra: Cendra;
let analyst: Person;
let dataset: DatasetBody;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  dataset = await datasetOf(analyst, await demoSource(analyst), 'regions');
});
afterAll(() => cendra.stop());

const titled = (to: string) =>
  analyst.ask<ProblemBody>('POST', `/datasets/${dataset.id}/edits`, {
    editId: unique('edit'),
    baseRevision: dataset.revision,
    edits: [{ kind: 'set title', from: dataset.definition.title, to }],
  });

test.each([
  ['the character of number 0', 'Yield\u0000'],
  ['the first half of a character', 'Yield \uD83D'],
  ['the second half of a character', '\uDE00 yield'],
])('a text with %s is refused at its place, and whole characters are kept', async (_name, text) => {
  const refused = await titled(text);
  expect([refused.status, refused.body.type, refused.body.problems[0]?.place.pointer]).toEqual([400, 'text-unstorable', '/edits/0/to']);
});

test('characters of two halves and of no width are texts like others', async () => {
  expect((await titled('Yield 🐝 \u200d 蜂')).status).toBe(201);
});

test('a request that is nested without end is refused before it is taken apart', async () => {
  const deep = `{"editId":"e","baseRevision":1,"edits":${'['.repeat(200_000)}${']'.repeat(200_000)}}`;
  const response = await fetch(`${cendra.address}/api/datasets/${dataset.id}/edits`, {
    method: 'POST',
    headers: { cookie: analyst.cookie, 'x-cendra-csrf': analyst.csrf, 'content-type': 'application/json' },
    body: deep,
  });
  expect([response.status, ((await response.json()) as ProblemBody).type]).toEqual([400, 'request-too-deep']);
});

test.each([
  ['GET', '/datasets/constructor'],
  ['GET', '/datasets/__proto__/tables'],
  ['GET', '/runs/constructor'],
  ['GET', '/results/0/rows?offset=0&limit=1'],
  ['GET', '/sources/%00'],
  ['GET', '/sources/x/tables'],
])('%s %s is not found or refused', async (method, path) => {
  expect([400, 404]).toContain((await analyst.ask(method, path)).status);
});
