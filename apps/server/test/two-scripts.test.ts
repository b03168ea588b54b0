import type { Definition, Problem, ScriptStep, ToldScript } from '@cendra/core';
import { applyEdits, putTogether, splitScript, statementsIn, takeTextOver, textsAround, tokensOf } from '@cendra/core';
import type { DatasetBody, Person, RunBody } from './support/cendra';
import { Cendra, ended, rowsOf } from './support/cendra';
import { demoSource, edit } from './support/datasets';
import { unique } from './support/cluster';
import { datasetOfScript, described, scriptOf } from './support/texts';

/** A script that goes on in the session of another: the rows are those of one script of all statements. */

let cendra: Cendra;
let analyst: Person;
let source: string;

beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
  source = await demoSource(analyst);
});
afterAll(() => cendra.stop());

const TEXT = `create temp table figures (grade text primary key, kilos numeric(14,2), share numeric(6,2));
insert into figures (grade, kilos)
select grade, sum(kilos) from coop.harvests where extract(year from picked_on)::int = :season and grade is not null group by grade;
update figures set share = 100 * kilos / (select sum(kilos) from figures) where kilos > 0;
update figures set share = share + :more where share > :least;
select grade, kilos, share from figures order by grade`;
const STATEMENTS = statementsIn(tokensOf(TEXT)).length;

const mint = () => unique('id');
const scriptAt = ({ definition }: Pick<DatasetBody, 'definition'>, id: string) =>
  definition.steps.find((each): each is ScriptStep => each.id === id && each.kind === 'script') as ScriptStep;
const valuesOf = ({ parameters }: Definition) =>
  Object.fromEntries(parameters.map(({ id, name }) => [id, [{ season: '2024', more: '1.5', least: '30' }[name] ?? '']]));

const runOf = async (dataset: DatasetBody, step: string): Promise<RunBody> => {
  const asked = { dataset: dataset.id, revision: dataset.revision, step, size: 'full', values: valuesOf(dataset.definition), slot: 'test' };
  const started = await analyst.ask<RunBody>('POST', '/runs', asked);
  return started.status < 300 ? ended(analyst, started.body.id) : started.body;
};
async function rowsAfter(dataset: DatasetBody, step: string): Promise<unknown> {
  const done = await runOf(dataset, step);
  return done.state === 'done' ? (await rowsOf(analyst, done.result?.id ?? '')).map((row) => row.slice(1)) : done.problems;
}
const toldOf = (dataset: DatasetBody, step: string, to?: number) =>
  analyst.ask<ToldScript & { readonly problems?: readonly { readonly message: string; readonly place: { readonly step?: string } }[] }>(
    'POST',
    '/scripts/run',
    { dataset: dataset.id, revision: dataset.revision, step, values: valuesOf(dataset.definition), ...(to === undefined ? {} : { to }) },
  );

/** The dataset with its script split behind a statement, both described as the bench does. */
async function splitAt(dataset: DatasetBody, after: number): Promise<{ readonly two: DatasetBody; readonly first: string }> {
  const whole = scriptOf(dataset);
  const made = splitScript(dataset.definition, whole, after, mint);
  if ('because' in made) throw new Error(made.because);
  const two = await edit(analyst, dataset, ...made.edits);
  const first = scriptAt(two, made.step);
  const answer = await described(analyst, source, first.sql.text, two.definition.parameters.map(nameAndType), true);
  expect(answer.problems).toEqual([]);
  return { two: await edit(analyst, two, ...takeTextOver(two.definition, first, first.sql.text, answer, mint).edits), first: first.id };
}
const nameAndType = ({ name, type }: Definition['parameters'][number]) => ({ name, type });

test('at whatever statement a script is split, its rows stay what they were, and those of the first are of its moment', async () => {
  const dataset = await datasetOfScript(analyst, source, TEXT);
  const { id } = scriptOf(dataset);
  const rows = await rowsAfter(dataset, id);
  expect(rows).toHaveLength(3);
  let now = dataset;
  for (let after = 1; after < STATEMENTS; after++) {
    const { two, first } = await splitAt(now, after);
    const second = scriptAt(two, id);
    const { before } = textsAround(two.definition, second);
    // What its parameters meet is told of its own places, whatever stands before.
    const answer = await described(analyst, source, second.sql.text, two.definition.parameters.map(nameAndType), true, before);
    expect(answer.problems).toEqual([]);
    expect(takeTextOver(two.definition, second, second.sql.text, answer, mint).edits).toEqual([]);
    expect(await rowsAfter(two, id)).toEqual(rows);
    const early = (await rowsAfter(two, first)) as readonly (readonly (string | null)[])[];
    expect(early).toHaveLength(after === 1 ? 0 : 3);
    if (after === 2) expect(early.every((row) => row.at(-1) === null)).toBe(true);
    now = await edit(analyst, two, ...(putTogether(two.definition, second) ?? []));
    expect(scriptOf(now).sql.text.match(/;/g)).toHaveLength(STATEMENTS - 1);
    expect(await rowsAfter(now, id)).toEqual(rows);
  }
});

test('its list tells of its own statements only, which find the temp tables of the first', async () => {
  const { two } = await splitAt(await datasetOfScript(analyst, source, TEXT), 2);
  const { id } = scriptAt(two, two.definition.result ?? '');
  const { body } = await toldOf(two, id, 1);
  expect(body.statements.map(({ number, state, rows }) => [number, state, rows])).toEqual([
    [1, 'ran', '3'],
    [2, 'not run', null],
    [3, 'not run', null],
  ]);
  expect(body.statements[0]?.temps.map(({ name, count }) => [name, count])).toEqual([['figures', '3']]);
  const { body: further } = await toldOf(two, id);
  expect([further.stood, further.statements.map(({ state }) => state)]).toEqual([1, ['ran', 'ran', 'ran']]);
});

test('what is wrong in the first is told as its own, where it is described, run and listed', async () => {
  const { two, first } = await splitAt(await datasetOfScript(analyst, source, TEXT), 3);
  const { id } = scriptAt(two, two.definition.result ?? '');
  const { sql } = scriptAt(two, first);
  const divided = { ...sql, text: sql.text.replace('100 * kilos /', '100 / 0 * kilos /') };
  const broken = await edit(analyst, two, { kind: 'set step', step: first, property: 'sql', from: sql, to: divided });
  const told = await toldOf(broken, id);
  expect(told.status).toBe(422);
  expect(told.body.problems?.map(({ message, place }) => [message.slice(0, 12), place.step])).toEqual([['Statement 3:', first]]);
  const ran = await runOf(broken, id);
  expect(ran.state).toBe('failed');
  expect((ran.problems as readonly Problem[]).map(({ place }) => place.step)).toEqual([first]);
  const parameters = two.definition.parameters.map(nameAndType);
  const { problems } = await described(analyst, source, 'select kilo from figures', parameters, true, [sql.text]);
  expect(problems.map(({ code }) => code)).toEqual(['column-unknown']);
  const wrong = await described(analyst, source, 'select kilos from figures', parameters, true, [
    sql.text.replace('sum(kilos)', 'sum(kilo)'),
  ]);
  expect(wrong.problems.map(({ message }) => message.slice(0, 32))).toEqual(['In the script before, Statement ']);
});

test('a definition in which it goes on from no script is kept, and does not run', async () => {
  const { two, first } = await splitAt(await datasetOfScript(analyst, source, TEXT), 2);
  const second = scriptAt(two, two.definition.result ?? '');
  const without = await edit(analyst, two, { kind: 'set input', step: second.id, slot: 0, from: first, to: null });
  expect(applyEdits(without.definition, []).steps.find((each) => each.id === second.id)?.inputs).toEqual([]);
  const ran = await runOf(without, second.id);
  expect(ran.problems.map(({ code }) => code)).toEqual(['script-writes-outside']);
});
