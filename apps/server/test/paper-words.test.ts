import ExcelJS from 'exceljs';
import { addParameter } from '@cendra/core';
import { fieldOf, parameter, writtenCriteria } from './support/datasets';
import { papers, words } from './support/papers';

/** What stands above the lines of a paper, and what a spreadsheet says of them besides. */

const { paper, pdfText, harvests } = papers();

const said = { title: 'Yield & more', subtitle: 'Kilos <by> grade', note: 'For the autumn meeting.' };

test('the subtitle stands between title and note, written so that every format holds it', async () => {
  const given = await harvests((definition) => [writtenCriteria(definition, 'id <= 20')]);
  const [html, xml, md, pdf] = await Promise.all(
    ['html', 'xml', 'md', 'pdf'].map(async (format) => (await paper(given.dataset, given.result, format, said)).bytes),
  );
  expect(html?.toString('utf8')).toContain(
    '<h1>Yield &amp; more</h1>\n<p class="subtitle">Kilos &lt;by&gt; grade</p>\n<p>For the autumn meeting.</p>',
  );
  expect(xml?.toString('utf8')).toContain('<subtitle>Kilos &lt;by&gt; grade</subtitle>\n<note>For the autumn meeting.</note>');
  expect(md?.toString('utf8')).toContain('# Yield & more\n\n## Kilos \\<by> grade\n\nFor the autumn meeting.\n');
  expect(words(pdfText(pdf ?? Buffer.alloc(0)))).toContain('Yield & more Kilos <by> grade For the autumn meeting.');
  const without = (await paper(given.dataset, given.result, 'html', { title: said.title })).bytes.toString('utf8');
  expect(without).not.toContain('class="subtitle"');
});

describe('the sheet About', () => {
  async function about(given: Awaited<ReturnType<typeof harvests>>) {
    const book = new ExcelJS.Workbook();
    await book.xlsx.load((await paper(given.dataset, given.result, 'xlsx', said)).bytes as never);
    const lines: (readonly [string, string])[] = [];
    book.getWorksheet('About')?.eachRow((row) => lines.push([row.getCell(1).text, row.getCell(2).text]));
    return lines;
  }

  test('has title, subtitle and note, each parameter with the value the rows were got with, and what was found', async () => {
    const lines = await about(
      await harvests((definition) => [
        addParameter(definition, leastKilos),
        addParameter({ parameters: [leastKilos] }, secret),
        addParameter({ parameters: [leastKilos, secret] }, many),
        writtenCriteria(definition, 'id <= 200 and kilos >= :least and moisture < :secret and (id < 200 or batch in (:many))'),
        {
          kind: 'set proof',
          property: 'totals',
          from: [{ field: fieldOf(definition, 'kilos'), aggregate: 'sum' }],
          to: [{ field: fieldOf(definition, 'id'), aggregate: 'sum' }],
        },
      ]),
    );
    expect(lines.slice(0, 3)).toEqual([
      ['What it is', said.title],
      ['', said.subtitle],
      ['', said.note],
    ]);
    expect(lines).toContainEqual([':least', '12.5']);
    // A private value is kept nowhere, and what it starts as is not what was used.
    expect(lines).toContainEqual([':secret', 'private']);
    expect(lines).toContainEqual([':many', '1500 values']);
    expect(lines).toContainEqual(['Finding', 'The sum of id is not allowed: it is a key of type whole number.']);
  });

  test('says that nothing was found where nothing was', async () => {
    expect(await about(await harvests((definition) => [writtenCriteria(definition, 'id <= 20')]))).toContainEqual(['Findings', 'none']);
  });
});

const leastKilos = parameter({ name: 'least', startsAs: ['12.5'] });
const secret = parameter({ name: 'secret', startsAs: ['99'], isPrivate: true });
const many = parameter({
  name: 'many',
  type: 'text',
  takes: 'several',
  startsAs: Array.from({ length: 1_500 }, (_each, at) => `batch ${at}`),
});
