import type { Edit, Parameter } from '@cendra/core';
import type { DatasetBody, Person } from './support/cendra';
import { Cendra, postgresqlAt } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { demoSource } from './support/datasets';
import { datasetOfText } from './support/texts';

/** Texts and scripts kept as functions of their source: who may, what is made, and that it gives the same rows. */

interface Preview {
  readonly statement: string;
  readonly signature: string;
  readonly existing: string | null;
  readonly problems: readonly { readonly code: string }[];
}
interface Kept {
  readonly signature: string;
  readonly compared: readonly { readonly rowsOfText: string; readonly rowsOfRoutine: string; readonly same: boolean }[];
  readonly problems: readonly { readonly code: string }[];
}

let cendra: Cendra;
let analyst: Person;
let steward: Person;
let source: string;
const own = async (sql: string) => withSuperuser('cooperative', (client) => client.query<string[]>({ text: sql, rowMode: 'array' }));
const made: string[] = [];
const fresh = (name: string) => {
  const found = unique(name).replaceAll('-', '_').toLowerCase();
  made.push(found);
  return found;
};

beforeAll(async () => {
  cendra = await Cendra.start();
  [analyst, steward] = [await cendra.signIn('analyst'), await cendra.signIn('steward')];
  source = await demoSource(analyst);
});
afterAll(async () => {
  for (const name of made) {
    const { rows } = await own(
      `select p.oid::regprocedure::text from pg_proc p where p.pronamespace = 'kept'::regnamespace and p.proname = '${name}'`,
    );
    for (const [signature] of rows) await own(`drop function ${signature ?? ''}`);
  }
  await cendra.stop();
});

const keeping = (people: readonly string[], more: Record<string, unknown> = {}) =>
  steward.ask('PUT', `/sources/${source}/keeping`, { user: 'cendra_keep', schema: 'kept', people, ...more });
const asked = (dataset: DatasetBody, name: string) => ({
  dataset: dataset.id,
  revision: dataset.revision,
  step: dataset.definition.steps[0]?.id ?? '',
  name,
});
const preview = (dataset: DatasetBody, name: string, person = analyst) =>
  person.ask<Preview>('POST', '/kept-routines/preview', asked(dataset, name));

async function keep(
  dataset: DatasetBody,
  name: string,
  values: readonly Readonly<Record<string, readonly string[]>>[] = [{}],
): Promise<Kept & { statement: string }> {
  const { body, status } = await preview(dataset, name);
  expect([status, body.problems]).toEqual([200, []]);
  const named = values.map((each) =>
    Object.fromEntries(Object.entries(each).map(([parameter, given]) => [idOf(dataset, parameter), given])),
  );
  const kept = await analyst.post<Kept>('/kept-routines', { ...asked(dataset, name), statement: body.statement, values: named });
  return { ...kept, statement: body.statement };
}

const idOf = ({ definition }: DatasetBody, name: string) => definition.parameters.find((each) => each.name === name)?.id ?? '';

async function demo(title: string): Promise<DatasetBody> {
  const found = (await analyst.get<{ id: string; title: string }[]>('/datasets')).find((each) => each.title === title);
  return analyst.get<DatasetBody>(`/datasets/${found?.id ?? ''}`);
}

/** A dataset of a text as the bench takes it over, properties of its parameters as said, by name. */
const ofText = (text: string, parameters: Readonly<Record<string, Partial<Parameter>>> = {}): Promise<DatasetBody> =>
  datasetOfText(analyst, source, text, ({ definition }) =>
    definition.parameters.flatMap((each) =>
      Object.entries(parameters[each.name] ?? {}).map(
        ([property, to]) => ({ kind: 'set parameter', parameter: each.id, property, from: each[property as keyof Parameter], to }) as Edit,
      ),
    ),
  );

describe('who may', () => {
  test('nobody, unless a steward says so; nobody is told the password', async () => {
    const dataset = await demo('Kilos of a season, one day short');
    expect((await preview(dataset, 'kilos_of_season')).status).toBe(403);
    expect(await analyst.get<object>(`/sources/${source}/keeping`)).toEqual({ may: false, schema: null, user: null, people: [] });
    expect((await analyst.ask('PUT', `/sources/${source}/keeping`, { user: 'x', schema: 'kept', people: [analyst.id] })).status).toBe(403);
    expect((await preview(dataset, 'kilos_of_season', steward)).status).toBe(403);
    const { body, text } = await keeping([analyst.id]);
    expect(body).toEqual({ may: false, schema: 'kept', user: 'cendra_keep', people: [analyst.id] });
    expect(text).not.toContain('secret');
    expect(await analyst.get(`/sources/${source}/keeping`)).toMatchObject({ may: true, schema: 'kept', user: null, people: [] });
    expect((await preview(dataset, 'kilos_of_season')).status).toBe(200);
    await keeping([]);
    expect((await preview(dataset, 'kilos_of_season')).status).toBe(403);
    await keeping([analyst.id]);
  });

  test('another user needs its password; one without rights there is told', async () => {
    expect((await keeping([analyst.id], { user: 'cendra_read' })).status).toBe(422);
    const read = (postgresqlAt({}) as { secret: string }).secret;
    expect((await keeping([analyst.id], { user: 'cendra_read', secret: read })).status).toBe(200);
    const dataset = await demo('Kilos of a season, one day short');
    const { body } = await preview(dataset, 'not_made');
    const refused = await analyst.ask<{ problems: { code: string }[] }>('POST', '/kept-routines', {
      ...asked(dataset, 'not_made'),
      statement: body.statement,
      values: [],
    });
    expect([refused.status, refused.body.problems.map((each) => each.code)]).toEqual([403, ['keeping-refused']]);
    expect((await keeping([analyst.id], { user: 'cendra_keep', secret: read })).status).toBe(200);
  });
});

describe('a text', () => {
  test('is a function with typed arguments and fields by name, and gives the same rows over the values of a sweep', async () => {
    const name = fresh('kilos_of_season');
    const dataset = await demo('Kilos of a season, one day short');
    const { statement, signature, compared, problems } = await keep(
      dataset,
      name,
      ['2022', '2023', '2024', '2025'].map((season) => ({ season: [season] })),
    );
    expect(statement).toContain(
      `create function "kept"."${name}"("season" integer default null)\nreturns table ("picked_on" date, "harvests" bigint, "kilos" numeric)\nlanguage sql stable as $kept$`,
    );
    expect(statement).toContain('select r."picked_on", r."harvests", r."kilos"');
    expect(problems).toEqual([]);
    expect(signature).toBe(`kept.${name}(integer)`);
    expect(compared.map((each) => each.same)).toEqual([true, true, true, true]);
    expect(Number(compared[2]?.rowsOfText)).toBeGreaterThan(50);
    const audit = await withSuperuser(cendra.database, (client) =>
      client.query<{ subject: string }>("select subject from audit_entry where act = 'kept a text as a function'"),
    );
    expect(audit.rows.map((each) => each.subject)).toContain(signature);
    // It runs like any other function from then on.
    expect((await analyst.ask('POST', '/datasets', { source, calls: { signature } })).status).toBe(201);
  });

  test('whatever shape its parameters have, and whichever of them are blank', async () => {
    const dataset = await demo('Harvests by text, asked in every way');
    const blanks = [
      { least: ['5'], grades: ['A', 'B'], period: ['2025-04-01', '2025-09-30'], flower: [] },
      { least: ['2.5'], grades: ['B'], period: ['2024-04-01', '2025-09-30'], flower: ['lime'] },
    ];
    const { compared } = await keep(dataset, fresh('asked'), blanks);
    expect(compared.map((each) => each.same)).toEqual([true, true]);
    const off = await ofText(
      `select h.id, h.grade, h.kilos from coop.harvests h -- all of them
       where h.grade = :grade and h.picked_on not between :day -- a comment
         and (h.floral_source = :flower or h.kilos > :least) and h.id in (:ids)`,
      { flower: { leftBlank: 'condition is off' }, least: { leftBlank: 'must be filled' } },
    );
    const ways = ['', 'A'].flatMap((grade) =>
      [[], ['2025-05-01', ''], ['', '2025-05-01'], ['2024-05-01', '2025-05-01']].flatMap((day) =>
        ['', 'lime'].flatMap((flower) =>
          [[], ['1', '2', '3', '77']].map((ids) => ({
            grade: grade ? [grade] : [],
            day,
            flower: flower ? [flower] : [],
            least: ['7.5'],
            ids,
          })),
        ),
      ),
    );
    const all = await keep(off, fresh('off'), ways);
    expect(all.problems).toEqual([]);
    expect(all.compared).toHaveLength(32);
    expect(all.compared.filter((each) => !each.same)).toEqual([]);
    expect(new Set(all.compared.map((each) => each.rowsOfText)).size).toBeGreaterThan(8);
  });

  test('stands as it is in its function, whatever it holds', async () => {
    const dataset = await ofText(`select 'it''s $kept$ and \\ ; drop' as "odd "" name", :p::text as p, $$x$$ as d -- end`);
    const { compared, statement } = await keep(dataset, fresh('odd'), [{ p: ["'; $kept_2$"] }]);
    expect(compared).toEqual([{ rowsOfText: '1', rowsOfRoutine: '1', same: true }]);
    expect(statement).toContain('as $kept_2$');
    expect(statement).toContain('"for_p" text');
  });

  test('takes the place of another only as it was shown, and keeps the old one in the history', async () => {
    const name = fresh('replaced');
    const first = await ofText('select id, kilos from coop.harvests');
    const { signature } = await keep(first, name);
    const second = await ofText('select id from coop.harvests where kilos > 5');
    const { body } = await preview(second, name);
    expect(body.existing).toContain('"kilos"');
    const other = await analyst.ask<{ problems: { code: string }[] }>('POST', '/kept-routines', {
      ...asked(second, name),
      statement: `${body.statement} `,
      values: [{}],
    });
    expect([other.status, other.body.problems[0]?.code]).toEqual([409, 'routine-other']);
    expect((await keep(second, name)).compared.map((each) => each.same)).toEqual([true]);
    const history = await analyst.get<{ replaced: string | null; madeBy: string }[]>(
      `/sources/${source}/kept-routines?signature=${encodeURIComponent(signature)}`,
    );
    expect(history.map((each) => [each.replaced?.includes('kilos') ?? null, each.madeBy])).toEqual([
      [true, 'Barnaby Quill'],
      [null, 'Barnaby Quill'],
    ]);
  });

  test('that may not be read, has other fields now, or says what no function can, is refused with why', async () => {
    const codes = async (dataset: DatasetBody) => (await preview(dataset, 'refused')).body.problems.map((each) => each.code);
    expect(await codes(await demo('Settlement of members, as it was pasted'))).not.toEqual([]);
    const nested = await ofText('select id from coop.harvests where kilos > :a + (select avg(kilos) from coop.harvests where grade = :b)');
    expect(await codes(nested)).toEqual(['text-not-kept']);
    const two = await ofText('select id from coop.harvests where grade = :a', { a: { isPrivate: true } });
    expect(await codes(two)).toEqual(['parameter-private']);
    const named = await preview(await demo('Kilos of a season, one day short'), 'drop table;');
    expect(named.status).toBe(400);
  });
});

test('a script is a function that makes its temp tables anew at each call', async () => {
  const dataset = await demo('A season’s figures, line by line');
  const seasons = ['2023', '2024', '2025'].map((season) => ({ season: [season] }));
  const { statement, compared, problems } = await keep(dataset, fresh('figures'), seasons);
  expect(problems).toEqual([]);
  expect(statement).toContain('language plpgsql volatile');
  expect(statement).toContain('drop table if exists pg_temp.');
  expect(compared.map((each) => each.same)).toEqual([true, true, true]);
  expect(Number(compared[0]?.rowsOfText)).toBeGreaterThan(3);
});

test('what moved to another place is not signed in to with the old password', async () => {
  const { body } = await steward.ask<{ id: string }>('POST', '/sources', {
    ...(postgresqlAt({}) as object),
    name: unique('moving'),
    mark: 'MV',
  });
  const at = (people: readonly string[], secret?: string) =>
    steward.ask('PUT', `/sources/${body.id}/keeping`, { user: 'cendra_keep', schema: 'kept', people, ...(secret ? { secret } : {}) });
  expect((await at([analyst.id])).status).toBe(422);
  expect((await at([analyst.id], 'any')).status).toBe(200);
  await steward.ask('PUT', `/sources/${body.id}/access`, { people: [analyst.id] });
  const moved = await steward.ask('PATCH', `/sources/${body.id}`, {
    settings: { host: 'localhost' },
    secret: (postgresqlAt({}) as { secret: string }).secret,
  });
  expect(moved.status).toBe(200);
  expect((await at([analyst.id])).status).toBe(422);
  await steward.ask('DELETE', `/sources/${body.id}`);
});
