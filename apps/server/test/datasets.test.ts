import { addStepAfter } from '@cendra/core';
import type { Edit, Step } from '@cendra/core';
import type { DatasetBody, Person, ProblemBody } from './support/cendra';
import { Cendra } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, parameter, tableOf, writtenCriteria } from './support/datasets';

let cendra: Cendra;
let analyst: Person;
let source: string;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
});
afterAll(() => cendra.stop());

const send = (dataset: DatasetBody, baseRevision: number, edits: readonly Edit[], editId = unique('edit')) =>
  analyst.ask<DatasetBody & ProblemBody>('POST', `/datasets/${dataset.id}/edits`, { editId, baseRevision, edits });
const title = (from: string, to: string): Edit => ({ kind: 'set title', from, to });

test('a dataset begins with its table, nothing taken, called by its table', async () => {
  const dataset = await analyst.post<DatasetBody>('/datasets', { source, schema: 'coop', table: 'harvests' });
  expect(dataset.definition.title).toBe('');
  const named = (await analyst.get<{ id: string; title: string }[]>('/datasets')).find(({ id }) => id === dataset.id);
  expect(named?.title).toBe('Harvests');
  expect(tableOf(dataset.definition).taken).toEqual([]);
  expect(tableOf(dataset.definition).fields).toHaveLength(9);
});

test('edits make revisions that say in words what changed', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests');
  const changed = await edit(analyst, dataset, writtenCriteria(dataset.definition, 'kilos >= 5'));
  expect(changed.revision).toBe(3);
  const history = await analyst.get<{ sentence: string; person: string }[]>(`/datasets/${dataset.id}/revisions`);
  expect(history.map((each) => each.sentence)).toEqual(['added criteria: kilos >= 5', 'took 9 fields of harvests', 'began the dataset']);
  expect(history[0]?.person).toBe('Barnaby Quill');
});

test('the same edit sent twice is applied once and answered alike', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests');
  const before = dataset.definition.title;
  const first = await send(dataset, dataset.revision, [title(before, 'Once')], 'same-edit-id');
  const again = await send(dataset, dataset.revision, [title(before, 'Once')], 'same-edit-id');
  expect([first.body.revision, again.body.revision]).toEqual([3, 3]);
  expect((await analyst.get<DatasetBody>(`/datasets/${dataset.id}`)).definition.title).toBe('Once');
});

test('the same edit sent at the same time from two places is applied once', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests');
  const answers = await Promise.all(
    [1, 2, 3].map(() => send(dataset, dataset.revision, [title(dataset.definition.title, 'Thrice')], 'one-edit-id')),
  );
  expect(answers.map((each) => each.body.revision)).toEqual([3, 3, 3]);
});

test('edits on an old base are rebased where they still fit', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests');
  await send(dataset, dataset.revision, [title(dataset.definition.title, 'Theirs')]);
  const mine = await send(dataset, dataset.revision, [writtenCriteria(dataset.definition, 'kilos > 1')]);
  expect(mine.status).toBe(201);
  expect([mine.body.revision, mine.body.definition.title, mine.body.definition.steps.length]).toEqual([4, 'Theirs', 2]);
});

test('an edit whose place somebody else changed is refused and changes nothing', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests');
  await send(dataset, dataset.revision, [title(dataset.definition.title, 'Theirs')]);
  const mine = await send(dataset, dataset.revision, [
    writtenCriteria(dataset.definition, 'kilos > 1'),
    title(dataset.definition.title, 'Mine'),
  ]);
  expect([mine.status, mine.body.type]).toEqual([409, 'edit-conflict']);
  const now = await analyst.get<DatasetBody>(`/datasets/${dataset.id}`);
  expect([now.definition.title, now.definition.steps.length]).toEqual(['Theirs', 1]);
});

test.each([
  ['an unknown kind of edit', [{ kind: 'explode' }], 400],
  ['an edit without its parts', [{ kind: 'set title', to: 'x' }], 400],
  ['a property a step does not have', [{ kind: 'set step', step: 'unknown', property: 'head', from: 'none', to: 'none' }], 409],
  ['no edits at all', [], 400],
  [
    'an edit with a name that is none',
    [
      {
        kind: 'add parameter',
        at: { after: null, before: null },
        parameter: { id: 'p', name: 'a b', type: 'text', takes: 'one', leftBlank: 'matches empty', startsAs: [], hint: '' },
      },
    ],
    400,
  ],
])('%s is refused', async (_, edits, status) => {
  const dataset = await datasetOf(analyst, source, 'regions');
  const refused = await send(dataset, dataset.revision, edits as never);
  expect(refused.status).toBe(status);
  expect((await analyst.get<DatasetBody>(`/datasets/${dataset.id}`)).revision).toBe(dataset.revision);
});

test('a step that uses itself is refused', async () => {
  const dataset = await datasetOf(analyst, source, 'regions');
  const step: Step = { id: 'x', kind: 'criteria', name: '', off: false, inputs: ['x'], head: 'every one', clauses: [] };
  const at = { after: null, before: tableOf(dataset.definition).id };
  const refused = await send(dataset, dataset.revision, [{ kind: 'add step', step, at, heirs: [] }]);
  expect([refused.status, refused.body.problems[0]?.code]).toEqual([422, 'edit-breaks']);
});

test('who saves while others do finds the newest state, and nothing is lost', async () => {
  const dataset = await datasetOf(analyst, source, 'regions');
  const parameters = Array.from({ length: 8 }, (_each, at) => parameter({ name: `p${at}`, type: 'text' }));
  // All stand on the same base; each is rebased on those that came before it.
  const answers = await Promise.all(
    parameters.map((each) => send(dataset, dataset.revision, [{ kind: 'set sheet', field: each.id, property: 'label', to: each.name }])),
  );
  expect(answers.map((each) => each.status)).toEqual(parameters.map(() => 201));
  const now = await analyst.get<DatasetBody>(`/datasets/${dataset.id}`);
  expect([now.revision, now.definition.sheet.length]).toEqual([dataset.revision + 8, 8]);
});

test('an edit on the newest revision is answered by its number, one on an older by what became of it', async () => {
  const dataset = await datasetOf(analyst, source, 'regions');
  const plain = await send(dataset, dataset.revision, [title(dataset.definition.title, 'Theirs')]);
  expect([plain.body.revision, plain.body.definition]).toEqual([dataset.revision + 1, null]);
  const rebased = await send(dataset, dataset.revision, [{ kind: 'set request', from: '', to: 'All regions' }]);
  expect([rebased.body.revision, rebased.body.definition.title]).toEqual([dataset.revision + 2, 'Theirs']);
});

test('a definition that would become too large is refused', async () => {
  const dataset = await datasetOf(analyst, source, 'regions');
  const long = 'x'.repeat(9_000);
  const clauses = Array.from({ length: 200 }, (_, index) => ({
    id: `c${index}`,
    kind: 'condition' as const,
    off: false,
    field: 'f',
    operator: 'one of',
    operands: [{ kind: 'value' as const, text: long }],
    andNulls: false,
  }));
  const step = {
    id: 'big',
    kind: 'criteria' as const,
    name: '',
    off: false,
    inputs: [tableOf(dataset.definition).id],
    head: 'every one' as const,
    clauses,
  };
  const first = await send(dataset, dataset.revision, [addStepAfter(dataset.definition, tableOf(dataset.definition).id, step)]);
  const more = await send(dataset, dataset.revision, [
    {
      kind: 'add step',
      step: { ...step, id: 'bigger' },
      at: { after: tableOf(dataset.definition).id, before: 'big' },
      heirs: [],
    },
  ]);
  expect([first.status, more.status]).toEqual([201, 413]);
});

test('a wrong expression is saved and opens again as it was typed', async () => {
  const dataset = await datasetOf(analyst, source, 'harvests');
  const typed = "kilos >= 'lots' and (";
  await edit(analyst, dataset, writtenCriteria(dataset.definition, typed));
  const again = await analyst.get<DatasetBody>(`/datasets/${dataset.id}`);
  const step = again.definition.steps[1];
  expect(step?.kind === 'criteria' && step.clauses[0]).toMatchObject({ expression: { text: typed } });
});

test('a definition of a newer version and a broken one are told, and stay as they are', async () => {
  for (const [document, code] of [
    ['{"version": 99}', 'definition-newer'],
    ['{"version": 1, "title": "x", "steps": [{"id": 5}], "parameters": []}', 'definition-broken'],
  ] as const) {
    const dataset = await analyst.post<DatasetBody>('/datasets', { source, schema: 'coop', table: 'regions' });
    await withSuperuser(cendra.database, (client) =>
      client.query('update revision set document = $1 where dataset_id = $2', [document, dataset.id]),
    );
    const opened = await analyst.get<{ definition: null; problems: { code: string }[] }>(`/datasets/${dataset.id}`);
    expect([opened.definition, opened.problems[0]?.code]).toEqual([null, code]);
    expect((await send(dataset, 1, [title('x', 'y')])).status).toBe(422);
  }
});

test('after many revisions the newest state and older ones can be opened', async () => {
  let dataset = await datasetOf(analyst, source, 'regions');
  for (let count = 0; count < 120; count++) dataset = await edit(analyst, dataset, title(dataset.definition.title, `Title ${count}`));
  expect((await analyst.get<DatasetBody>(`/datasets/${dataset.id}`)).definition.title).toBe('Title 119');
  expect((await analyst.get<DatasetBody>(`/datasets/${dataset.id}?revision=20`)).definition.title).toBe('Title 17');
  expect((await analyst.ask('GET', `/datasets/${dataset.id}?revision=999`)).status).toBe(404);
  // A hundred at once, without gaps down to the first.
  const numbers = async (before: number) =>
    (await analyst.get<{ number: number }[]>(`/datasets/${dataset.id}/revisions?before=${before}`)).map((each) => each.number);
  const all = [...(await numbers(dataset.revision + 1)), ...(await numbers(dataset.revision - 99))];
  expect(all).toEqual(Array.from({ length: dataset.revision }, (_, at) => dataset.revision - at));
});
