import { DataSource } from 'typeorm';
import { emptyDefinition, readDefinition } from '@cendra/core';
import { databaseOptions } from '../src/database/options';
import { cluster, unique, withSuperuser } from './support/cluster';

/** What an earlier version stored is there after the migrations, and reads as it did. */

const GROUND = 'Ground1700000004000';
const name = unique('migrated');
beforeAll(() => withSuperuser('postgres', (client) => client.query(`create database ${name}`)));
afterAll(() => withSuperuser('postgres', (client) => client.query(`drop database ${name} with (force)`)));

async function migrated<T>(only: (each: string) => boolean, use: (database: DataSource) => Promise<T>): Promise<T> {
  const options = databaseOptions(cluster.url(name));
  const migrations = (options.migrations as (() => void)[]).filter((each) => only(each.name));
  const database = await new DataSource({ ...options, migrations } as never).initialize();
  try {
    return await use(database);
  } finally {
    await database.destroy();
  }
}

const table = {
  id: 't',
  kind: 'table',
  name: '',
  off: false,
  inputs: [],
  source: 's',
  schema: 'coop',
  table: 'harvests',
  fields: [
    {
      id: 'f',
      column: 'kilos',
      sourceType: 'numeric(6,1)',
      type: { kind: 'decimal', precision: 6, scale: 1 },
      role: 'measure',
      looseText: false,
    },
  ],
  taken: ['f'],
};
const criteria = { id: 'c', kind: 'criteria', name: '', off: false, inputs: ['t'], head: 'every one', clauses: [] };
const clause = {
  id: 'x',
  kind: 'expression',
  off: false,
  expression: { text: 'kilos > :least', refs: [{ kind: 'parameter', id: 'p', from: 8, to: 14 }] },
};
const least = { id: 'p', name: 'least', type: 'decimal', takes: 'one', leftBlank: 'must be filled', startsAs: [], hint: '' };

/** Edits as version 4 wrote them, each revision's. */
const REVISIONS: readonly (readonly object[])[] = [
  [],
  [
    { kind: 'set title', from: 'Kilos', to: 'Kilos by season' },
    { kind: 'add parameter', parameter: least, index: 0 },
  ],
  [{ kind: 'add step', step: criteria, after: 't', heirs: [] }],
  [
    { kind: 'add clause', step: 'c', clause, index: 0 },
    { kind: 'rename parameter', parameter: 'p', from: 'least', to: 'lowest' },
  ],
  [{ kind: 'remove step', step: { ...criteria, clauses: [clause] }, after: 't', heirs: [] }],
];

test('every revision that kept its edits only has its whole document', async () => {
  const id = await migrated(
    (each) => each.slice(-13) < GROUND.slice(-13),
    async (database) => {
      const [dataset] = await database.query<{ id: string }[]>("insert into dataset (title, revision) values ('Kilos', 5) returning id");
      const { result: _later, ...rest } = emptyDefinition('Kilos');
      const first = JSON.stringify({ ...rest, version: 4, steps: [table] });
      for (const [at, edits] of REVISIONS.entries())
        await database.query(
          'insert into revision (dataset_id, number, edit_id, edits, sentence, snapshot) values ($1, $2, $3, $4, $5, $6)',
          [dataset?.id, at + 1, `edit ${at}`, JSON.stringify(edits), 'changed', at === 0 ? first : null],
        );
      return dataset?.id;
    },
  );
  const documents = await migrated(
    () => true,
    (database) =>
      database.query<{ document: unknown; sources: string[] }[]>(
        'select document, sources from revision where dataset_id = $1 order by number',
        [id],
      ),
  );
  const read = documents.map(({ document }) => {
    const given = readDefinition(document);
    if (!('definition' in given)) throw new Error(JSON.stringify(given));
    return given.definition;
  });
  expect(read.map((each) => each.title)).toEqual(['Kilos', ...Array<string>(4).fill('Kilos by season')]);
  expect(read.map((each) => each.steps.map((step) => step.id))).toEqual([['t'], ['t'], ['t', 'c'], ['t', 'c'], ['t']]);
  expect(read.map((each) => each.result)).toEqual(['t', 't', 'c', 'c', 't']);
  expect(read[3]?.steps[1]).toMatchObject({ clauses: [{ expression: { text: 'kilos > :lowest' } }] });
  expect(documents.map((each) => each.sources)).toEqual(Array(5).fill(['s']));
  expect(read[4]?.parameters.map((each) => each.name)).toEqual(['lowest']);
});

test('goes down and up again', async () => {
  await migrated(
    () => true,
    async (database) => {
      for (let undone = 0; undone < 8; undone++) await database.undoLastMigration();
      const columns = () =>
        database.query<{ column_name: string }[]>("select column_name from information_schema.columns where table_name = 'revision'");
      expect((await columns()).map((each) => each.column_name)).toContain('snapshot');
      await database.runMigrations();
      expect((await columns()).map((each) => each.column_name)).toContain('document');
    },
  );
});
