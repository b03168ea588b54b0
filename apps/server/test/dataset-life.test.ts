import type { Definition } from '@cendra/core';
import { applyEdits, editsBetween, emptyDefinition, readDefinition, withFreshIds } from '@cendra/core';
import type { DatasetBody, Person, ProblemBody } from './support/cendra';
import { Cendra } from './support/cendra';
import { withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, tableOf } from './support/datasets';

let cendra: Cendra;
let analyst: Person;
let steward: Person;
let source: string;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  steward = await cendra.signIn('steward');
  source = await demoSource(analyst);
});
afterAll(() => cendra.stop());

interface Line {
  readonly id: string;
  readonly title: string;
  readonly description: string;
  readonly tags: readonly string[];
}
const lines = (path = '/datasets') => analyst.get<Line[]>(path);
const history = (id: string) => analyst.get<{ number: number; sentence: string; person: string }[]>(`/datasets/${id}/revisions`);

describe('a dataset as a whole', () => {
  test('is described and tagged, which the list shows', async () => {
    const plain = await datasetOf(analyst, source, 'regions');
    await edit(
      analyst,
      plain,
      { kind: 'set dataset', property: 'description', from: '', to: 'The four regions' },
      { kind: 'set dataset', property: 'tags', from: [], to: ['region'] },
    );
    expect((await lines()).find((each) => each.id === plain.id)).toMatchObject({ description: 'The four regions', tags: ['region'] });
  });

  test('is duplicated with all that was said of it, and a history of its own', async () => {
    const plain = await datasetOf(analyst, source, 'regions');
    const copy = await analyst.post<DatasetBody>(`/datasets/${plain.id}/copies`);
    // All is minted anew, so that a dataset can stand on its own copy; what it says is the same.
    let count = 0;
    const alike = (of: Definition) => {
      count = 0;
      return withFreshIds({ ...of, title: '' }, () => `id ${++count}`);
    };
    expect(copy.definition.title).toBe('Copy of Regions');
    expect(alike(copy.definition)).toEqual(alike(plain.definition));
    const fields = (of: Definition) => tableOf(of).fields.map((each) => each.id);
    expect(fields(copy.definition).filter((each) => fields(plain.definition).includes(each))).toEqual([]);
    expect((await history(copy.id)).map((each) => each.sentence)).toEqual([`began as a copy of Regions, revision ${plain.revision}`]);
  });

  test('is deleted and taken back with its history; meanwhile nothing is read or changed', async () => {
    const plain = await datasetOf(analyst, source, 'regions');
    expect((await analyst.ask('DELETE', `/datasets/${plain.id}`)).status).toBe(204);
    expect((await lines()).some((each) => each.id === plain.id)).toBe(false);
    expect((await lines('/datasets/deleted')).some((each) => each.id === plain.id)).toBe(true);
    const refused = await analyst.ask<ProblemBody>('GET', `/datasets/${plain.id}`);
    expect([refused.status, refused.body.problems[0]?.code]).toEqual([410, 'dataset-deleted']);
    const edits = [{ kind: 'set title', from: plain.definition.title, to: 'Other' }];
    expect(
      (await analyst.ask('POST', `/datasets/${plain.id}/edits`, { editId: 'edit-deleted', baseRevision: plain.revision, edits })).status,
    ).toBe(410);
    const back = await analyst.post<DatasetBody>(`/datasets/${plain.id}/taking-back`);
    expect([back.definition, back.revision]).toEqual([plain.definition, plain.revision]);
  });

  test('is neither copied nor deleted by who lacks its source', async () => {
    const plain = await datasetOf(analyst, source, 'regions');
    const access = `/sources/${source}/access`;
    await steward.ask('PUT', access, { people: [] });
    try {
      expect((await analyst.ask('DELETE', `/datasets/${plain.id}`)).status).toBe(403);
      expect((await analyst.ask('POST', `/datasets/${plain.id}/copies`)).status).toBe(403);
    } finally {
      await steward.ask('PUT', access, { people: [analyst.id] });
    }
  });
});

describe('an older revision', () => {
  test('whose definition cannot be read is neither deleted nor taken back: nobody knows whose it is', async () => {
    const begun = () => analyst.post<DatasetBody>('/datasets', { source, schema: 'coop', table: 'regions' });
    const [here, deleted] = [await begun(), await begun()];
    const document = (set: string) =>
      withSuperuser(cendra.database, (client) =>
        client.query(`update revision set document = ${set} where dataset_id = any($1)`, [[here.id, deleted.id]]),
      );
    await document("jsonb_set(document, '{version}', '99')");
    await withSuperuser(cendra.database, (client) => client.query('update dataset set deleted_at = now() where id = $1', [deleted.id]));
    for (const person of [analyst, steward]) {
      const answers = [
        await person.ask<ProblemBody>('DELETE', `/datasets/${here.id}`),
        await person.ask<ProblemBody>('POST', `/datasets/${deleted.id}/taking-back`),
        await person.ask<ProblemBody>('POST', `/datasets/${here.id}/copies`),
      ];
      expect(answers.map((each) => [each.status, each.body.problems?.[0]?.code])).toEqual(Array(3).fill([422, 'definition-newer']));
    }
    await document(`jsonb_set(document, '{version}', '${here.definition.version}')`);
    expect((await analyst.ask('DELETE', `/datasets/${here.id}`)).status).toBe(204);
  });

  test('is gone back to by edits, which the history says, and which can be undone', async () => {
    const first = await datasetOf(analyst, source, 'regions');
    const second = await edit(analyst, first, { kind: 'set title', from: first.definition.title, to: 'Regions, shorter' });
    const edits = editsBetween(second.definition, first.definition);
    const back = await analyst.post<DatasetBody>(`/datasets/${first.id}/edits`, {
      editId: 'edit-back-1',
      baseRevision: second.revision,
      edits,
      restores: first.revision,
    });
    expect([back.revision, back.definition]).toEqual([second.revision + 1, null]);
    expect((await analyst.get<DatasetBody>(`/datasets/${first.id}`)).definition).toEqual(first.definition);
    expect((await history(first.id))[0]).toMatchObject({
      sentence: `went back to revision ${first.revision}: named the dataset by what it keeps again`,
    });
  });

  test('of an older version is read as what it became, and gone back to', async () => {
    const now = await analyst.post<DatasetBody>('/datasets', { source, schema: 'coop', table: 'regions' });
    const {
      description: _d,
      tags: _t,
      sheet: _s,
      order: _o,
      brief: _b,
      proof: _p,
      result: _r,
      ...rest
    } = { ...now.definition, title: 'As it was' };
    await withSuperuser(cendra.database, (client) =>
      client.query({
        text: 'update revision set document = $2 where dataset_id = $1 and number = 1',
        values: [now.id, JSON.stringify({ ...rest, version: 3, steps: [] })],
      }),
    );
    const old = await analyst.get<DatasetBody>(`/datasets/${now.id}?revision=1`);
    const read = readDefinition(old.definition);
    expect(read).toEqual({
      definition: { ...emptyDefinition('As it was'), parameters: now.definition.parameters, calendar: now.definition.calendar },
    });
    if (!('definition' in read)) throw new Error('it was read');
    expect(applyEdits(now.definition, editsBetween(now.definition, read.definition))).toEqual(read.definition);
  });

  test('that would be of a newer version is told, and nothing is changed', async () => {
    const now = await analyst.post<DatasetBody>('/datasets', { source, schema: 'coop', table: 'regions' });
    await withSuperuser(cendra.database, (client) =>
      client.query({
        text: "update revision set document = jsonb_set(document, '{version}', '99') where dataset_id = $1 and number = 1",
        values: [now.id],
      }),
    );
    const old = await analyst.ask<{ definition: unknown; problems: { code: string }[] }>('GET', `/datasets/${now.id}?revision=1`);
    expect([old.status, old.body.definition, old.body.problems[0]?.code]).toEqual([200, null, 'definition-newer']);
  });
});

test('an undo whose target somebody else changed meanwhile is refused with what is there now', async () => {
  const plain = await datasetOf(analyst, source, 'regions');
  const mine = await edit(analyst, plain, { kind: 'set sheet', field: 'f', property: 'label', to: 'Mine' });
  await edit(steward, mine, { kind: 'set sheet', field: 'f', property: 'label', from: 'Mine', to: 'Theirs' });
  const undo = {
    editId: 'undo-label',
    baseRevision: mine.revision,
    edits: [{ kind: 'set sheet', field: 'f', property: 'label', from: 'Mine' }],
  };
  const refused = await analyst.ask<ProblemBody>('POST', `/datasets/${plain.id}/edits`, undo);
  expect([refused.status, refused.body.problems[0]?.code]).toEqual([409, 'edit-conflict']);
});
