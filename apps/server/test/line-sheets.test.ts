import type { Definition, LineSheetStep, SheetLine, Step } from '@cendra/core';
import { addParameter, addStepAfter, lineSheetStep, placeAtEnd } from '@cendra/core';
import type { DatasetBody, Person } from './support/cendra';
import { Cendra, ended, rowsOf, run } from './support/cendra';
import { unique, withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, parameter } from './support/datasets';
import { datasetOfScript } from './support/texts';

/** Line sheets over HTTP: what SQL of the test's own gives, and the rows behind each line. */

let cendra: Cendra;
let analyst: Person;
beforeAll(async () => {
  cendra = await Cendra.start();
  analyst = await cendra.signIn('analyst');
});
afterAll(() => cendra.stop());

const text = (written: string) => ({ text: written, refs: [] });
const rows = (aggregate: 'rows' | 'sum' | 'median' | 'average', expression = '', among = ''): SheetLine['figure'] => ({
  from: 'rows',
  slot: 0,
  aggregate,
  expression: text(expression),
  among: text(among),
});
const line = (place: number, wording: string, figure: SheetLine['figure'], kind: SheetLine['kind'] = 'line'): SheetLine => ({
  id: `l${place}`,
  place: String(place),
  wording,
  level: 0,
  kind,
  figure,
  format: '',
});

async function sheetOn(
  table: string,
  make: (input: string) => Partial<LineSheetStep>,
): Promise<{ readonly dataset: DatasetBody; readonly step: LineSheetStep }> {
  const dataset = await datasetOf(analyst, await demoSource(analyst), table);
  const after = dataset.definition.steps.at(-1)?.id ?? '';
  const step: LineSheetStep = { ...lineSheetStep(() => unique('m'), after), ...make(after) };
  return { dataset: await edit(analyst, dataset, addStepAfter(dataset.definition, after, step)), step };
}

/** The rows of a step, without their numbers, as texts of the named fields. */
async function told(
  dataset: DatasetBody,
  names: readonly string[],
  values: Record<string, string[]> = {},
  step?: string,
): Promise<readonly (readonly unknown[])[]> {
  const done = await run(analyst, dataset, 'full', values, step);
  expect(done.problems ?? []).toEqual([]);
  const at = names.map((name) => (done.result?.columns ?? []).findIndex((each) => each.name === name));
  return (await rowsOf(analyst, done.result?.id ?? '')).map((row) => at.map((each) => row[each + 1]));
}

const inDemo = (sql: string): Promise<readonly (readonly (string | null)[])[]> =>
  withSuperuser('cooperative', async (client) => {
    const { rows: found } = (await client.query({ text: sql, rowMode: 'array' } as never)) as unknown as { rows: unknown };
    return (found as unknown as readonly (readonly unknown[])[]).map((row) => row.map((each) => (each === null ? null : String(each))));
  });

const REGIONS = ['FN', 'OV', 'SM', 'UT'];

test('a line per region, a subtotal, shares and a median are what SQL gives, in one statement', async () => {
  const { dataset, step } = await sheetOn('harvests', () => ({
    lines: [
      ...REGIONS.map((region, at) => line(at + 1, region, rows('sum', 'kilos', `substring(apiary_code from 1 for 2) = '${region}'`))),
      line(5, 'all of them', { from: 'range', since: 'l1', until: 'l4' }, 'total'),
      line(6, 'middle', rows('median', 'kilos')),
      line(7, 'share of FN', { from: 'lines', expression: text('100 * FN / "all of them"') }),
      line(8, 'harvests', rows('rows')),
    ],
  }));
  const found = await told(dataset, ['wording', 'amount']);
  const [sums = []] =
    await inDemo(`select ${REGIONS.map((each) => `sum(kilos) filter (where left(apiary_code, 2) = '${each}')`).join(', ')},
    sum(kilos) filter (where left(apiary_code, 2) in ('FN', 'OV', 'SM', 'UT')),
    percentile_cont(0.5) within group (order by kilos)::numeric,
    round(100 * sum(kilos) filter (where left(apiary_code, 2) = 'FN') / sum(kilos) filter (where left(apiary_code, 2) in ('FN', 'OV', 'SM', 'UT')), 6),
    count(*) from coop.harvests`);
  expect(found.map(([, amount]) => Number(amount))).toEqual(sums.map(Number));
  expect(found.map(([wording]) => wording)).toEqual([...REGIONS, 'all of them', 'middle', 'share of FN', 'harvests']);
  const done = await analyst.post<{ id: string }>('/runs', {
    dataset: dataset.id,
    revision: dataset.revision,
    step: step.id,
    size: 'head',
    values: {},
    slot: 'stages',
  });
  expect((await ended(analyst, done.id)).counts?.at(-1)?.rows).toBe('8');
});

test('the rows behind a line are those it counts; of a calculated one, those of the lines it is made of', async () => {
  const { dataset, step } = await sheetOn('harvests', () => ({
    lines: [
      line(1, 'heather', rows('sum', 'kilos', "floral_source = 'heather'")),
      line(2, 'lime', rows('rows', '', "floral_source = 'lime'")),
      line(3, 'both', { from: 'lines', expression: text('heather + lime') }),
      line(4, 'typed', { from: 'lines', expression: text('7') }),
    ],
  }));
  const behind = async (of: string) => run(analyst, dataset, 'head', {}, step.id, { kind: 'line', line: of });
  const kinds = async (of: string) => {
    const { result } = await behind(of);
    const at = (result?.columns ?? []).findIndex((each) => each.name === 'floral_source') + 1;
    return [...new Set((await rowsOf(analyst, result?.id ?? '')).map((row) => row[at]))].toSorted();
  };
  expect(await kinds('l1')).toEqual(['heather']);
  expect(await kinds('l3')).toEqual(['heather', 'lime']);
  for (const none of ['l4', 'l9']) await expect(behind(none)).rejects.toThrow('No rows stand behind this line.');
});

test('a row that is followed is counted into its lines', async () => {
  const { dataset, step } = await sheetOn('harvests', () => ({
    lines: [
      line(1, 'all', rows('rows')),
      line(2, 'heather', rows('rows', '', "floral_source = 'heather'")),
      line(3, 'others', rows('rows', '', "floral_source <> 'heather'")),
    ],
  }));
  const [[id] = []] = await inDemo("select min(id) from coop.harvests where floral_source = 'heather'");
  const key =
    dataset.definition.steps[0]?.kind === 'table' ? dataset.definition.steps[0].fields.find((each) => each.column === 'id')?.id : '';
  const question = { kind: 'follow', step: step.id, identity: [{ field: key, value: id }] };
  const answer = await analyst.post<{ steps: readonly { readonly values: readonly (readonly { name: string; value: string }[])[] }[] }>(
    '/answers',
    { dataset: dataset.id, revision: dataset.revision, values: {}, question },
  );
  const lines = answer.steps.at(-1)?.values.map((row) => row.find((each) => each.name === 'wording')?.value);
  expect(lines).toEqual(['all', 'heather']);
});

/** The demo's sheet as a script somebody would write by hand. */
const BY_HAND = `create temp table sheet (place int primary key, wording text not null, amount numeric(20,2));
insert into sheet select 10, 'Kilos', sum(kilos) from coop.harvests where extract(year from picked_on)::int = :season;
insert into sheet select 20, 'Paid in advance', sum(amount) from coop.advances where extract(year from paid_on)::int = :season;
insert into sheet select 30, 'Advance a kilo', round((select amount from sheet where place = 20) / (select amount from sheet where place = 10), 2);
select place, wording, amount from sheet order by place`;

test('a sheet and a script of the same lines give the same rows, for every season', async () => {
  const source = await demoSource(analyst);
  const harvests = await datasetOf(analyst, source, 'harvests');
  const advances = await datasetOf(analyst, source, 'advances');
  const [own, other] = [harvests, advances].map(({ definition }) => definition.steps[0] as Step);
  if (!own || !other) throw new Error('datasets begin with a table');
  const both = await edit(
    analyst,
    harvests,
    { kind: 'add step', step: other, at: placeAtEnd(harvests.definition.steps), heirs: [] },
    addParameter(harvests.definition, parameter({ name: 'season', type: 'whole number', startsAs: ['2025'] })),
  );
  const base = lineSheetStep(() => unique('m'), own.id);
  const [amount] = base.amounts;
  const step: LineSheetStep = {
    ...base,
    inputs: [own.id, other.id],
    amounts: amount
      ? [
          {
            ...amount,
            of: { from: 'rows', among: [text('extract(year from picked_on) = :season'), text('extract(year from paid_on) = :season')] },
          },
        ]
      : [],
    lines: [
      line(10, 'Kilos', rows('sum', 'kilos')),
      line(20, 'Paid in advance', { ...rows('sum', 'amount'), slot: 1 } as SheetLine['figure']),
      line(30, 'Advance a kilo', { from: 'lines', expression: text('round("Paid in advance" / Kilos, 2)') }),
    ],
  };
  const sheet = await edit(analyst, both, addStepAfter(both.definition, other.id, step), { kind: 'set result', from: own.id, to: step.id });
  const scripted = await datasetOfScript(analyst, source, BY_HAND);
  for (const season of ['2022', '2024', '2025', '1999']) {
    const mine = await told(sheet, ['place', 'wording', 'amount'], { 'p-season': [season] });
    const theirs = await told(scripted, ['place', 'wording', 'amount'], { [parameterOf(scripted)]: [season] });
    expect(mine.map(([place, wording, of]) => [place, wording, of === null ? null : Number(of)])).toEqual(
      theirs.map(([place, wording, of]) => [String(place), wording, of === null ? null : Number(of)]),
    );
  }
});

const parameterOf = ({ definition }: { readonly definition: Definition }) => definition.parameters[0]?.id ?? '';
