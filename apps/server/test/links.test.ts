import ExcelJS from 'exceljs';
import type { DatasetBody, Person, ProblemBody } from './support/cendra';
import { Cendra, run } from './support/cendra';
import { withSuperuser } from './support/cluster';
import { datasetOf, demoSource, edit, fieldOf } from './support/datasets';

/** Links of rows: where they may lead is a steward's to say, and papers keep those that may be followed. */

let cendra: Cendra;
let analyst: Person;
let steward: Person;
beforeAll(async () => {
  cendra = await Cendra.start();
  [analyst, steward] = [await cendra.signIn('analyst'), await cendra.signIn('steward')];
});
afterAll(() => cendra.stop());

const RECORDS = 'https://records.cooperative.example/';
interface Allowed {
  readonly beginnings: readonly string[];
}
const allow = (by: Person, ...beginnings: readonly string[]) => by.ask<Allowed & ProblemBody>('PUT', '/links/allowed', { beginnings });

/** Members whose numbers and names lead to their records. */
async function members(): Promise<{ readonly dataset: DatasetBody; readonly result: string }> {
  const plain = await datasetOf(analyst, await demoSource(analyst), 'members', 'coop', ['id', 'number', 'phone']);
  const [id, number] = ['id', 'number'].map((column) => fieldOf(plain.definition, column));
  const dataset = await edit(
    analyst,
    plain,
    { kind: 'set sheet', field: id ?? '', property: 'link', from: undefined, to: `${RECORDS}members/{${id}}` },
    { kind: 'set sheet', field: number ?? '', property: 'link', from: undefined, to: `${RECORDS}find?number={${number}}&id={${id}}` },
    { kind: 'set proof', property: 'link', from: undefined, to: `${RECORDS}whole/{${id}}` },
  );
  return { dataset, result: (await run(analyst, dataset, 'full')).result?.id ?? '' };
}

async function paper({ dataset, result }: Awaited<ReturnType<typeof members>>, format: string): Promise<Buffer> {
  const response = await fetch(`${cendra.address}/api/results/${result}/paper`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', cookie: analyst.cookie, 'x-cendra-csrf': analyst.csrf },
    body: JSON.stringify({ dataset: dataset.id, revision: dataset.revision, format, title: 'Members' }),
  });
  return Buffer.from(await response.arrayBuffer());
}

test('a steward says where links may lead, others read it; what leaves that open is refused at its place', async () => {
  expect((await allow(analyst, RECORDS)).status).toBe(403);
  expect((await cendra.signIn('reader').then((reader) => reader.ask('GET', '/links/allowed'))).status).toBe(403);
  expect((await allow(steward, RECORDS, ' mailto: ', RECORDS)).body.beginnings).toEqual([RECORDS, 'mailto:']);
  expect((await analyst.get<Allowed>('/links/allowed')).beginnings).toEqual([RECORDS, 'mailto:']);
  const refused = await allow(steward, RECORDS, 'javascript:', 'https://records.example');
  expect([refused.status, refused.body.problems.map(({ code, place }) => [code, place.pointer])]).toEqual([
    422,
    [
      ['address-open', '/beginnings/1'],
      ['address-open', '/beginnings/2'],
    ],
  ]);
  expect((await analyst.get<Allowed>('/links/allowed')).beginnings).toEqual([RECORDS, 'mailto:']);
  const noted = await withSuperuser(cendra.database, (client) =>
    client.query<{ detail: string }>("select detail from audit_entry where act = 'said where links may lead'"),
  );
  expect(noted.rows.map((each) => JSON.parse(each.detail))).toEqual([{ beginnings: [RECORDS, 'mailto:'] }]);
});

test('papers keep the links of each row, a number staying one; none that is not allowed any more', async () => {
  await allow(steward, RECORDS);
  const given = await members();
  const html = (await paper(given, 'html')).toString('utf8');
  expect(html).toContain(`<a href="${RECORDS}members/1" rel="noopener noreferrer">1</a>`);
  expect(html).toContain(`<a href="${RECORDS}find?number=M0001&amp;id=1" rel="noopener noreferrer">M0001</a>`);
  expect(html).toContain(`<th scope="row"><a href="${RECORDS}whole/1" rel="noopener noreferrer">record</a></th>`);
  const markdown = (await paper(given, 'md')).toString('utf8');
  expect(markdown).toContain(
    `| [record](<${RECORDS}whole/1>) | [1](<${RECORDS}members/1>) | [M0001](<${RECORDS}find?number=M0001&id=1>) |`,
  );
  const pdf = (await paper(given, 'pdf')).toString('latin1');
  expect(pdf).toContain(`/URI (${RECORDS}whole/420)`);
  expect((await paper(given, 'xml')).toString('utf8')).toContain(`<line kind="row" level="0" link="${RECORDS}whole/1">`);
  expect(pdf).toContain(`/URI (${RECORDS}members/420)`);
  const book = new ExcelJS.Workbook();
  await book.xlsx.load((await paper(given, 'xlsx')) as never);
  const row = book.getWorksheet('Proof')?.getRow(2);
  const cells = [0, 1, 2, 3].map((at) => row?.getCell(at + 1).value);
  expect(cells).toEqual([
    { text: 'record', hyperlink: `${RECORDS}whole/1` },
    { formula: `HYPERLINK("${RECORDS}members/1",1)`, result: 1 },
    { text: 'M0001', hyperlink: `${RECORDS}find?number=M0001&id=1` },
    '070007919',
  ]);

  await allow(steward, 'https://elsewhere.example/');
  for (const format of ['html', 'pdf', 'xml', 'md']) expect((await paper(given, format)).toString('latin1')).not.toContain(RECORDS);
  const without = new ExcelJS.Workbook();
  await without.xlsx.load((await paper(given, 'xlsx')) as never);
  expect(without.getWorksheet('Proof')?.getRow(2).getCell(2).value).toBe(1);
});
