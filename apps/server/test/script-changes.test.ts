import type { Client } from 'pg';
import type { ToldScript, ToldStatement } from '@cendra/core';
import type { DatasetBody, Person } from './support/cendra';
import { Cendra } from './support/cendra';
import { withSuperuser } from './support/cluster';
import { datasetOfScript, scriptOf } from './support/texts';
import { demoSource } from './support/datasets';

/** What the list of a script's statements tells of its temp tables, beside what the server finds by itself. */

let cendra: Cendra;
let analyst: Person;
let source: string;

beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
});
afterAll(() => cendra.stop());

const ran = (dataset: DatasetBody) =>
  analyst.post<ToldScript>('/scripts/run', { dataset: dataset.id, revision: dataset.revision, step: scriptOf(dataset).id, values: {} });

/** Twenty statements that fill, change and empty a table with a key and one without, in ways that overlap. */
const TWENTY = [
  'create temp table lots (place int primary key, grade text, kilos numeric(10,2))',
  'create temp table spare (grade text, kilos numeric(10,2))',
  "insert into lots select i, case when i % 3 = 0 then 'A' else 'B' end, i * 1.5 from generate_series(1, 60) i",
  'insert into spare select grade, kilos from lots where place % 2 = 0',
  "update lots set grade = 'C' where place between 10 and 20",
  'update lots set kilos = kilos + 0 where place < 30',
  'update lots set kilos = null where place % 7 = 0',
  'delete from lots where place > 50',
  'insert into lots select i, null, i from generate_series(101, 110) i',
  "update spare set grade = 'A' where kilos < 20",
  'insert into spare select grade, kilos from spare where kilos > 70',
  "delete from spare where grade = 'B' and kilos > 80",
  'update lots set place = place + 200 where place % 10 = 0',
  "update lots set grade = coalesce(grade, 'B'), kilos = coalesce(kilos, 0)",
  'insert into lots select i, grade, kilos from generate_series(1, 3) i cross join lateral (select grade, kilos from spare order by kilos limit 1) s where not exists (select from lots where place = i)',
  "delete from lots using spare where lots.kilos = spare.kilos and lots.grade = 'A'",
  'update lots set kilos = kilos * 2 from (select max(place) most from lots) m where place = m.most',
  "merge into lots using (values (40, 'Z'), (41, 'Z'), (900, 'Z')) as w (place, grade) on lots.place = w.place when matched then update set grade = w.grade when not matched then insert values (w.place, w.grade, 1)",
  'delete from spare where kilos is null or kilos > 0',
  'select place, grade, kilos from lots order by place',
];

interface Apart {
  readonly added: string;
  readonly gone: string;
  readonly changed: string;
  /** Each changed cell: its row's key, its column, what it was. */
  readonly cells: readonly (readonly [place: string, column: string, old: string | null])[];
}

/** How a table with a key differs from what it was, asked of the server. */
async function keyedApart(client: Client): Promise<Apart> {
  const { rows } = await client.query<Omit<Apart, 'cells'>>(`
    select count(*) filter (where b.place is null)::text as added, count(*) filter (where n.place is null)::text as gone,
           count(*) filter (where n.place is not null and b.place is not null and (n.grade, n.kilos) is distinct from (b.grade, b.kilos))::text as changed
    from was_lots b full join lots n using (place)`);
  const cells = await client.query<[string, string, string | null]>({
    text: `select place::text, 'grade', b.grade from was_lots b join lots n using (place) where b.grade is distinct from n.grade
      union all select place::text, 'kilos', b.kilos::text from was_lots b join lots n using (place) where b.kilos is distinct from n.kilos`,
    rowMode: 'array',
  });
  const [counts] = rows;
  if (!counts) throw new Error('a count is one row');
  return { ...counts, cells: cells.rows };
}

/** The same of a table without one: rows as a whole, however often each stands. */
async function rowsApart(client: Client): Promise<Pick<Apart, 'added' | 'gone'>> {
  const { rows } = await client.query<Pick<Apart, 'added' | 'gone'>>(`
    select (select count(*) from (table spare except all table was_spare) a)::text as added,
           (select count(*) from (table was_spare except all table spare) g)::text as gone`);
  return rows[0] ?? { added: '', gone: '' };
}

const sorted = (cells: Apart['cells']) => [...cells].map((each) => each.join('|')).sort();

function keyedTold({ temps }: ToldStatement): Apart | undefined {
  const change = temps.find((each) => each.name === 'lots')?.touched?.change;
  if (!change) return undefined;
  if (change.by !== 'key') throw new Error(`compared by ${change.by}`);
  const cells = change.rows.flatMap(({ row, old = {} }) =>
    Object.entries(old).map(([column, was]) => [row[0] ?? '', column, was] as const),
  );
  return { added: String(change.added), gone: String(change.gone), changed: String(change.changed), cells };
}

test('of twenty statements each difference is the one the server finds by itself', async () => {
  const { statements } = await ran(await datasetOfScript(analyst, source, TWENTY.join(';\n')));
  expect(statements.map((each) => each.state)).toEqual(TWENTY.map(() => 'ran'));
  const told = { cells: 0, keyed: 0, counted: 0 };
  await withSuperuser('cooperative', async (client) => {
    await client.query(TWENTY.slice(0, 2).join(';'));
    for (const [at, text] of TWENTY.entries()) {
      const statement = statements[at];
      if (at < 2 || at === TWENTY.length - 1 || !statement) continue;
      await client.query('create temp table was_lots as table lots; create temp table was_spare as table spare');
      await client.query(text);
      const [lots, spare] = [await keyedApart(client), await rowsApart(client)];
      await client.query('drop table was_lots, was_spare');
      const mine = keyedTold(statement);
      // One that a statement did not touch is not told to have changed.
      const keyed = mine ?? { added: '0', gone: '0', changed: '0', cells: [] };
      expect([at + 1, keyed.added, keyed.gone, keyed.changed, sorted(keyed.cells)]).toEqual([
        at + 1,
        lots.added,
        lots.gone,
        lots.changed,
        sorted(lots.cells),
      ]);
      const change = statement.temps.find((each) => each.name === 'spare')?.touched?.change;
      const counts = change?.by === 'rows' ? [String(change.added), String(change.gone)] : ['0', '0'];
      expect([at + 1, ...counts]).toEqual([at + 1, spare.added, spare.gone]);
      told.cells += lots.cells.length;
      if (mine) told.keyed++;
      if (change) told.counted++;
    }
  });
  expect([told.cells > 30, told.keyed, told.counted]).toEqual([true, 12, 5]);
});
