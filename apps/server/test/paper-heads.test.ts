import { columnText } from '@cendra/core';
import ExcelJS from 'exceljs';
import type { ProblemBody } from './support/cendra';
import { fieldOf, writtenCriteria } from './support/datasets';
import { papers, words } from './support/papers';

/** What stands above the lines on paper: heads over columns within columns, and the chart. */

const { paper, pdfText, harvests, linesOf } = papers();

test('columns within columns have a line of heads for each level, in every format', async () => {
  const given = await harvests((definition) => {
    const [source, grade] = ['floral_source', 'grade'].map((column) => fieldOf(definition, column));
    const level = (field: string | undefined) => ({ field, descending: false, subtotal: true });
    return [
      writtenCriteria(definition, "floral_source in ('lime', 'clover') and grade in ('A', 'B')"),
      { kind: 'set proof', property: 'levels', from: [level(source), level(grade)], to: [] },
      { kind: 'set proof', property: 'across', from: definition.proof.across, to: { levels: [level(grade), level(source)], total: true } },
    ];
  });
  const { table, lines } = await linesOf(given);
  const heads = table.heads.map((line) => line.map((head) => [head.words, head.columns]));
  const within = [
    ['clover', 1],
    ['lime', 1],
    ['together', 1],
  ];
  expect(heads).toEqual([
    [
      ['A', 3],
      ['B', 3],
      ['Everything', 1],
    ],
    [...within, ...within, ['', 1]],
  ]);
  const [line] = lines;
  const figures = line ? table.columns.map((column) => columnText(line, column, table)) : [];
  expect(figures.filter((each) => each !== '')).toHaveLength(7);
  const written = async (format: string) => (await paper(given.dataset, given.result, format)).bytes;
  // One after the other: a server writes only so many files at once.
  const [html, xml, md] = [await written('html'), await written('xml'), await written('md')].map((each) => each.toString('utf8'));
  const [pdf, xlsx] = [await written('pdf'), await written('xlsx')];
  const [head] = /<thead>.*<\/thead>/s.exec(html ?? '') ?? [];
  expect(head?.match(/<tr>/g)).toHaveLength(3);
  expect(head).toContain('colspan="3" class="n">A</th>');
  const said = ['A, clover', 'A, lime', 'A', 'B, clover', 'B, lime', 'B', 'Everything'];
  expect([...(xml ?? '').matchAll(/<column [^>]*over="([^"]*)"/g)].map(([, over]) => over)).toEqual(said);
  const marked = md?.split('\n').find((each) => each.startsWith('|'));
  expect(
    marked
      ?.split('|')
      .slice(2, -1)
      .map((each) => each.trim()),
  ).toEqual(said.map((each) => `${each}: Kilos`));
  const [above, below] = pdfText(pdf, '-layout')
    .split('\n')
    .filter((each) => /^\s*(A|clover)\b/.test(each))
    .map(words);
  expect([above, below]).toEqual(['A B Everything', 'clover lime together clover lime together']);
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.load(xlsx as never);
  const sheet = workbook.getWorksheet('Proof');
  const row = (number: number) => [2, 3, 4, 5, 6, 7, 8].map((at) => sheet?.getRow(number).getCell(at).value ?? null);
  expect([row(1), row(2)]).toEqual([
    ['A', null, null, 'B', null, null, 'Everything'],
    ['clover', 'lime', 'together', 'clover', 'lime', 'together', null],
  ]);
});

describe('a chart on paper', () => {
  const heather = () => harvests((definition) => [writtenCriteria(definition, "grade = 'C' and floral_source = 'heather'")]);
  /** The head of a JPEG, which is all that is read of one. */
  const jpeg = (width: number, height: number) => {
    const frame = Buffer.from('ffd8ffc00011080000000003012200021101031101ffd9', 'hex');
    frame.writeUInt16BE(height, 7);
    frame.writeUInt16BE(width, 9);
    return frame.toString('base64');
  };
  const says = 'sum of Kilos by Grade, “as bars”';

  test('stands above the lines in PDF, with what it shows for who does not see it, and in HTML', async () => {
    const { dataset, result } = await heather();
    const plain = await paper(dataset, result, 'pdf');
    const drawn = await paper(dataset, result, 'pdf', { chart: { picture: jpeg(1_000, 300), says } });
    expect([plain.status, drawn.status]).toEqual([200, 200]);
    const holds = (bytes: Buffer) => bytes.includes('/Subtype /Image') && bytes.includes('/DCTDecode');
    expect([holds(plain.bytes), holds(drawn.bytes)]).toEqual([false, true]);
    // A third of the page's height is not there for lines.
    const on = (bytes: Buffer) =>
      pdfText(bytes, '-layout')
        .split('\f')[0]
        ?.split('\n')
        .filter((each) => /\bheather\b|\d{4}/.test(each)).length ?? 0;
    expect(on(drawn.bytes)).toBeLessThan(on(plain.bytes));
    expect(on(drawn.bytes)).toBeGreaterThan(5);
    const html = (await paper(dataset, result, 'html', { chart: { picture: jpeg(1_000, 300), says } })).bytes.toString('utf8');
    expect(html).toContain(
      `<img src="data:image/jpeg;base64,${jpeg(1_000, 300)}" alt="sum of Kilos by Grade, “as bars”" width="1000" height="300">`,
    );
  });

  test('that is no picture, or a huge one, is refused before anything is written', async () => {
    const { dataset, result } = await heather();
    for (const picture of [
      Buffer.from('<svg onload="x">').toString('base64'),
      jpeg(20_000, 20),
      jpeg(0, 20),
      Buffer.from('ffd8ff', 'hex').toString('base64'),
    ]) {
      const { status, bytes } = await paper(dataset, result, 'pdf', { chart: { picture, says } });
      expect([status, (JSON.parse(bytes.toString('utf8')) as ProblemBody).problems[0]?.code]).toEqual([400, 'picture-unread']);
    }
    expect((await paper(dataset, result, 'pdf', { chart: { picture: 'not base64!', says } })).status).toBe(400);
  });
});
