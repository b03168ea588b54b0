import type { Edit, Layout } from '@cendra/core';
import ExcelJS from 'exceljs';
import type { DatasetBody } from './support/cendra';
import { papers, words } from './support/papers';
import { proofOf } from './support/proofs';
import { demoSource } from './support/datasets';
import { datasetOfText, sqlOf } from './support/texts';

/** What a proof is given that it does not expect: each gets an answer, and no paper of it breaks. */

const on = papers();
const FORMATS = ['pdf', 'xlsx', 'html', 'md', 'xml'] as const;

const named = (dataset: DatasetBody, name: string) => sqlOf(dataset).fields.find((each) => each.name === name)?.id ?? '';

/** A text read by its first column, its last one summed; `also` says more of the proof. */
async function read(text: string, also: (dataset: DatasetBody) => Partial<Layout> = () => ({})): Promise<DatasetBody> {
  return datasetOfText(on.analyst, await demoSource(on.analyst), text, (dataset) => {
    const { proof } = dataset.definition;
    const ids = sqlOf(dataset).fields.map(({ id }) => id);
    const asked: Partial<Layout> = {
      levels: [{ field: ids[0] ?? '', descending: false, subtotal: true }],
      totals: [{ field: ids.at(-1) ?? '', aggregate: 'sum' }],
      ...also(dataset),
    };
    return Object.entries(asked).map(
      ([property, to]) => ({ kind: 'set proof', property, from: proof[property as keyof Layout], to }) as Edit,
    );
  });
}

/** The proof, and the sizes of its papers in every format. */
async function proved(dataset: DatasetBody) {
  const made = await proofOf(on.analyst, dataset);
  expect(made.answer.status).toBe(200);
  const papersOf = [];
  for (const format of FORMATS) papersOf.push(await on.paper(dataset, made.result, format));
  expect(papersOf.map(({ status }) => status)).toEqual(FORMATS.map(() => 200));
  const [pdf, xlsx, html] = papersOf;
  return { ...made, pdf: on.pdfText(pdf?.bytes ?? Buffer.alloc(0), '-raw'), xlsx: xlsx?.bytes, html: html?.bytes.toString('utf8') ?? '' };
}

test('a field of a hundred thousand values across is refused, with what to do', async () => {
  const dataset = await read(
    'select i % 7 as part, i as number, 1.5::numeric(4, 1) as kilos from generate_series(1, 100000) i',
    (given) => ({
      across: { levels: [{ field: named(given, 'number'), descending: false, subtotal: true }], total: true },
    }),
  );
  const { answer } = await proofOf(on.analyst, dataset);
  expect(answer.status).toBe(422);
  expect(answer.body.problems[0]).toMatchObject({ code: 'across-many', expected: 'a field of fewer values across, or this one down' });
});

test('a group of two hundred characters is whole on paper', async () => {
  const word = Array.from({ length: 200 }, (_each, at) => String.fromCharCode(97 + (at % 26))).join('');
  const { pdf, html } = await proved(await read(`select '${word}' as word, 1.5::numeric(4, 1) as kilos`));
  expect(html).toContain(word);
  expect(pdf.replaceAll(/\s/g, '')).toContain(word);
});

test.each([
  ['no row', 'select null::text as grade, null::numeric(4, 1) as kilos where false', ['0'], null],
  ['one row', "select 'A' as grade, 1.5::numeric(4, 1) as kilos", ['1', '1'], '1.5'],
  ['nothing but nulls', 'select null::text as grade, null::numeric(4, 1) as kilos from generate_series(1, 3)', ['3', '3'], null],
])('%s is read and written as it is', async (_what, text, rows, sum) => {
  const { lines, at, html } = await proved(await read(text));
  const totals = lines.filter((line) => at(line, 'line_kind') === '2');
  expect(totals.map((line) => at(line, 'line_rows'))).toEqual(rows);
  expect(totals.map((line) => at(line, 'total_0'))).toEqual(rows.map(() => sum));
  if (rows[0] === '3') expect(html).toContain('without a value');
});

test('a mark that compares a number with a text, and a title with a figure of a field that is gone, are left out and told', async () => {
  const dataset = await read("select 'A' as grade, 1.5::numeric(4, 1) as kilos", (given) => ({
    marks: [{ id: 'm', field: named(given, 'kilos'), operator: 'above', operands: ['much'], look: 'boxed' }],
    title: 'Yield: [sum of {gone}] kg',
  }));
  const { proof, xlsx } = await proved(dataset);
  expect(proof.columns.map(({ id }) => id)).not.toContain('mark_0');
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(xlsx as never);
  const told: string[] = [];
  book.getWorksheet('About')?.eachRow((row) => told.push(words(`${row.getCell(1).text} ${row.getCell(2).text}`)));
  expect(told).toContain('Finding The title names a figure of a field that is not handed over.');
  expect(told.some((each) => each.startsWith('Finding') && each.includes('much'))).toBe(true);
});

test('a file is called in any script', async () => {
  const dataset = await read("select 'A' as grade, 1.5::numeric(4, 1) as kilos");
  const { result } = await proofOf(on.analyst, dataset);
  for (const format of FORMATS) {
    const { headers } = await on.paper(dataset, result, format, { name: 'Урожай 収穫 "2025"/1' });
    expect(decodeURIComponent(headers.get('content-disposition') ?? '')).toContain('Урожай 収穫');
  }
});
