import { columnText, columnWords, lineLabel } from '@cendra/core';
import ExcelJS from 'exceljs';
import { LIMITS } from '../src/limits';
import type { ProblemBody } from './support/cendra';
import { run } from './support/cendra';
import { datasetOf, demoSource, fieldOf, writtenCriteria } from './support/datasets';
import { papers, words } from './support/papers';

/** The lines of a proof as files to be read: what stands in them is what the lines say, in their order. */

const on = papers({ limits: { paperLines: 20_000 } });
const { paper, pdfText, pdfFacts, harvests, linesOf } = on;

/** The plain ones, made once with their PDF. */
let known: Promise<Awaited<ReturnType<typeof harvests>> & { readonly pdf: Awaited<ReturnType<typeof paper>> }> | undefined;
const plainHarvests = () =>
  (known ??= harvests().then(async (given) => {
    const said = { note: 'For the autumn meeting.', name: 'Ernte im Überblick' };
    return { ...given, pdf: await paper(given.dataset, given.result, 'pdf', said) };
  }));

test('every line stands in the PDF in its order, with heads on every page, letters explained, and pages counted', async () => {
  const given = await plainHarvests();
  const { table, lines } = await linesOf(given);
  const { status, headers, bytes } = given.pdf;
  expect([status, headers.get('content-type'), headers.get('x-cendra-complete')]).toEqual([200, 'application/pdf', 'true']);
  expect(decodeURIComponent(headers.get('content-disposition') ?? '')).toContain('Ernte im Überblick.pdf');
  const pages = pdfText(bytes, '-layout').split('\f').slice(0, -1);
  expect(pages.length).toBeGreaterThan(200);
  pages.forEach((page, at) => {
    expect(page).toContain(`page ${at + 1} of ${pages.length}`);
    expect(page).toContain('Picked on');
  });
  for (const said of ['Harvests, as they were picked', 'For the autumn meeting.', '12 430 rows, complete', 'a: Kilos above 30'])
    expect(words(pages[0] ?? '')).toContain(said);
  const told = pages
    .flatMap((page) => page.split('\n').map(words))
    .filter((each) => each !== '' && !/^(Id|Harvests, as|page \d|For the autumn|As of|12 430 rows|a: Kilos)/.test(each));
  const expected = lines.map((line) => {
    const cells = table.columns.map((column) => {
      const letter = column.field.name === 'kilos' && line.marked[0] === true ? ' a' : '';
      return `${columnWords(line, column, table)}${letter}`;
    });
    return words([table.worded ? lineLabel(line, table) : '', ...cells].join(' '));
  });
  expect(told).toHaveLength(lines.length);
  expect(told).toEqual(expected);
});

test('the words of groups and totals go on below columns without totals, so that rows begin beside their margin', async () => {
  const { pdf } = await plainHarvests();
  const [page] = pdfText(pdf.bytes, '-bbox', '-f', '1', '-l', '1').split('</page>');
  const left = (word: string) => Number(new RegExp(`<word xMin="([\\d.]+)"[^>]*>${word}</word>`).exec(page ?? '')?.[1]);
  // As much as the words of the grand total are wide stood before them otherwise.
  expect(left('Id') - left('Floral')).toBeLessThan(40);
  expect(left('Id')).toBeGreaterThan(left('Floral'));
});

test('a short paper is tagged, a long one is not; a wide one lies on its side', async () => {
  const small = await datasetOf(on.analyst, await demoSource(on.analyst), 'regions');
  const result = (await run(on.analyst, small, 'full')).result?.id ?? '';
  const facts = pdfFacts((await paper(small, result, 'pdf')).bytes);
  expect(facts).toMatch(/Tagged:\s+yes/);
  expect(facts).toMatch(/Title:\s+Harvests, as they were picked/);
  expect(facts).toMatch(/595.28 x 841.89/);
  expect(pdfFacts((await plainHarvests()).pdf.bytes)).toMatch(/Tagged:\s+no/);
});

test('columns too many for a page go on on further ones, with the words of their lines repeated, and none is lost', async () => {
  const given = await harvests((definition) => [
    writtenCriteria(definition, 'extract(year from picked_on) = 2024'),
    {
      kind: 'set proof',
      property: 'across',
      from: definition.proof.across,
      to: { levels: [{ field: fieldOf(definition, 'picked_on'), descending: false, subtotal: false }], total: true },
    },
    {
      kind: 'set proof',
      property: 'levels',
      from: [fieldOf(definition, 'floral_source'), fieldOf(definition, 'grade')].map((field) => ({
        field,
        descending: false,
        subtotal: true,
      })),
      to: [{ field: fieldOf(definition, 'grade'), descending: false, subtotal: true }],
    },
  ]);
  const { table, lines } = await linesOf(given);
  expect(table.columns.length).toBeGreaterThan(150);
  const text = words(pdfText((await paper(given.dataset, given.result, 'pdf')).bytes));
  const [first] = lines;
  const figures = first ? table.columns.map((column) => words(columnWords(first, column, table))).filter((each) => each !== '') : [];
  expect(figures.length).toBeGreaterThan(50);
  for (const figure of figures) expect(text).toContain(figure);
  const slices = text.match(/page \d+ of (\d+)/)?.[1];
  expect(text.split('Everything').length - 1).toBeGreaterThanOrEqual(Number(slices));
});

test('HTML, XML and Markdown say the same lines; what they must not hold is written so that they hold it', async () => {
  const given = await harvests((definition) => [{ kind: 'set proof', property: 'rows', from: definition.proof.rows, to: false }]);
  const { table, lines } = await linesOf(given);
  const title = 'Kilos <b> & "grades" | of *all*';
  const [html, xml, md] = await Promise.all(
    ['html', 'xml', 'md'].map(async (format) => (await paper(given.dataset, given.result, format, { title })).bytes.toString('utf8')),
  );
  expect(html).toContain('<title>Kilos &lt;b&gt; &amp; &quot;grades&quot; | of *all*</title>');
  expect(html).not.toMatch(/<script|src=|href=/);
  expect(html?.match(/<tr/g)).toHaveLength(lines.length + 1);
  expect(xml?.match(/<line /g)).toHaveLength(lines.length);
  expect(xml).toContain('<title>Kilos &lt;b&gt; &amp; &quot;grades&quot; | of *all*</title>');
  expect(md?.split('\n').filter((each) => each.startsWith('|'))).toHaveLength(lines.length + 2);
  expect(md).toContain('# Kilos \\<b> & "grades" \\| of \\*all\\*');
  for (const line of lines) {
    const label = lineLabel(line, table);
    expect(html).toContain(`>${label}</th>`);
    for (const column of table.columns) {
      const figure = columnWords(line, column, table);
      if (figure === '') continue;
      expect(html).toContain(`${figure}</td>`);
      expect(xml).toContain(`>${columnText(line, column, table)}</value>`);
      expect(md).toContain(figure);
    }
  }
});

test('good and poor keep their colour and sign on paper, and groups of one row have no subtotal there either', async () => {
  const given = await harvests((definition) => {
    const [source, grade, kilos] = ['floral_source', 'grade', 'kilos'].map((each) => fieldOf(definition, each));
    const levels = [source, grade].map((field) => ({ field, descending: false, subtotal: true }));
    const lettered = { id: 'm', field: kilos, operator: 'above', operands: ['30'], look: 'lettered' };
    const by = (look: string, operator: string) => ({ id: look, field: kilos, of: 'sum', operator, operands: ['5000'], look });
    return [
      writtenCriteria(definition, 'id <= 60'),
      { kind: 'set proof', property: 'levels', from: levels, to: levels.map((each) => ({ ...each, ofSeveral: true })) },
      { kind: 'set proof', property: 'marks', from: [lettered], to: [by('good', 'above'), by('poor', 'below')] },
    ];
  });
  const { lines } = await linesOf(given);
  const totals = lines.filter((line) => line.kind === 'totals' && line.level > 0);
  expect(totals.every((line) => Number(line.rows) > 1)).toBe(true);
  expect(lines.some((line) => line.kind === 'header' && Number(line.rows) === 1)).toBe(true);
  const html = (await paper(given.dataset, given.result, 'html')).bytes.toString('utf8');
  expect(html.match(/class="n poor">[\d.\u202f]+ \u2212<\/td>/g)?.length).toBe(totals.length + 1);
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.load((await paper(given.dataset, given.result, 'xlsx')).bytes as never);
  const sums = lines.flatMap((line, at) => (line.kind === 'totals' ? [{ line, row: workbook.worksheets[0]?.getRow(at + 2) }] : []));
  for (const { line, row } of sums) {
    const cell = row?.getCell(5);
    expect([(cell?.value as { result?: number }).result, cell?.font.color?.argb, cell?.numFmt]).toEqual([
      Number(line.total(0)),
      'FF9E2A2B',
      expect.stringContaining('" \u2212"'),
    ]);
  }
});

test('totals that stand first do so on paper, and are values where formulas would count them twice', async () => {
  const given = await harvests((definition) => {
    const levels = ['floral_source', 'grade'].map((each) => ({ field: fieldOf(definition, each), descending: false, subtotal: true }));
    return [
      writtenCriteria(definition, 'id <= 200'),
      { kind: 'set proof', property: 'levels', from: levels, to: levels.map((each) => ({ ...each, totalsFirst: true })) },
      { kind: 'set proof', property: 'grandTotalFirst', from: undefined, to: true },
    ];
  });
  const { table, lines } = await linesOf(given);
  const [first, ...others] = lines;
  expect([first?.kind, first?.level, first?.rows]).toEqual(['totals', 0, '200']);
  // Behind each head its totals, and then what is in it.
  others.forEach((line, at) => {
    const next = others[at + 1];
    if (line.kind === 'header') expect([next?.kind, next?.level, next?.rows]).toEqual(['totals', line.level, line.rows]);
  });
  expect(others.filter((line) => line.kind === 'header').length).toBeGreaterThan(20);
  const read = words(pdfText((await paper(given.dataset, given.result, 'pdf')).bytes, '-layout'));
  const sum = words(columnText(first as never, table.columns.find((each) => each.field.name === 'kilos') as never, table));
  expect(read.indexOf(`Everything, sum ${sum}`)).toBeGreaterThan(0);
  expect(read.indexOf(`Everything, sum ${sum}`)).toBeLessThan(read.indexOf('Floral source'));
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.load((await paper(given.dataset, given.result, 'xlsx')).bytes as never);
  const sheet = workbook.getWorksheet('Proof');
  expect(sheet?.getRow(2).getCell(5).value).toBe(Number(first?.total(0)));
  sheet?.eachRow((row) => row.eachCell((cell) => expect(JSON.stringify(cell.value)).not.toContain('SUBTOTAL')));
});

test('Markdown ends after a thousand lines and says how many it leaves out', async () => {
  const given = await plainHarvests();
  const text = (await paper(given.dataset, given.result, 'md')).bytes.toString('utf8');
  const { lines } = await linesOf(given);
  expect(text.split('\n').filter((each) => each.startsWith('|'))).toHaveLength(1_002);
  expect(text).toContain(`${lines.length - 1_000} more lines are left out.`);
});

test('rows that are not all say so on the paper, and who may not see them gets none', async () => {
  const { dataset } = await plainHarvests();
  const head = (await run(on.analyst, dataset, 'head')).result?.id ?? '';
  const made = await paper(dataset, head, 'pdf');
  expect(made.headers.get('x-cendra-complete')).toBe('false');
  expect(words(pdfText(made.bytes))).toContain('the first 1 000 rows only');
  const outsider = await on.cendra.signIn('analyst2');
  const body = { dataset: dataset.id, revision: dataset.revision, format: 'pdf', title: 'x' };
  expect([403, 404]).toContain((await outsider.ask('POST', `/results/${head}/paper`, body)).status);
  const unknown = await on.analyst.ask<ProblemBody>('POST', `/results/${head}/paper`, { ...body, format: 'docx' });
  expect([unknown.status, unknown.body.problems[0]?.place.pointer]).toEqual([400, '/format']);
});

test('a paper that nobody would read is refused, with what to do; the rows are there all the same', async () => {
  const dataset = await datasetOf(on.analyst, await demoSource(on.analyst), 'scale_readings', 'coop', ['reading_no']);
  const result = (await run(on.analyst, dataset, 'full')).result?.id ?? '';
  const refused = await paper(dataset, result, 'pdf');
  expect(refused.status).toBe(422);
  const { problems } = JSON.parse(refused.bytes.toString('utf8')) as ProblemBody;
  expect(problems[0]).toMatchObject({ code: 'paper-long', expected: 'only its groups, or the rows as a spreadsheet' });
  expect(LIMITS.paperLines.value).toBeGreaterThanOrEqual(50_000);
});

test('as a spreadsheet its groups fold, totals are made of the rows above them, and the rows stand on a sheet of their own', async () => {
  const given = await plainHarvests();
  const { table, lines } = await linesOf(given);
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.load((await paper(given.dataset, given.result, 'xlsx', { title: '=1+1' })).bytes as never);
  expect(workbook.worksheets.map((each) => each.name)).toEqual(['Proof', 'Rows', 'About']);
  const [proof, rows, about] = workbook.worksheets;
  if (!proof || !rows || !about) throw new Error('there are three sheets');
  expect([proof.rowCount, rows.rowCount]).toEqual([lines.length + 1, 12_431]);
  expect([about.getCell('A1').value, about.getCell('B1').value]).toEqual(['What it is', '=1+1']);
  const kilos = table.columns.findIndex((each) => each.field.name === 'kilos') + 2;
  const levels = new Map<string, Set<number>>();
  let formulas = 0;
  lines.forEach((line, at) => {
    const row = proof.getRow(at + 2);
    const key = `${line.kind} ${line.level}`;
    levels.set(key, (levels.get(key) ?? new Set()).add(row.outlineLevel ?? 0));
    const cell = row.getCell(kilos);
    if (line.kind !== 'totals') return;
    const { formula, result } = cell.value as { formula: string; result: number };
    expect(result).toBe(Number(line.total(0)));
    const [, from = '', until = ''] = /^SUBTOTAL\(9,[A-Z]+(\d+):[A-Z]+(\d+)\)$/.exec(formula) ?? [];
    expect([Number(until), line.level === 0 ? Number(from) : 2]).toEqual([at + 1, 2]);
    // Reckoned as a spreadsheet does: of the rows in the range, and not of the totals among them.
    const sum = lines.slice(Number(from) - 2, Number(until) - 1).reduce((all, each) => {
      const value = each.kind === 'row' ? each.value(table.columns[kilos - 2]?.field.id ?? '') : null;
      return typeof value === 'string' ? all + Math.round(Number(value) * 100) : all;
    }, 0);
    expect(sum / 100).toBe(result);
    formulas++;
  });
  expect(formulas).toBeGreaterThan(20);
  expect(Object.fromEntries([...levels].map(([key, found]) => [key, [...found]]))).toEqual({
    'header 1': [1],
    'header 2': [2],
    'row 2': [2],
    'totals 2': [1],
    'totals 1': [0],
    'totals 0': [0],
  });
  const marked = lines.findIndex((line) => line.kind === 'row' && line.marked[0] === true);
  expect(proof.getRow(marked + 2).getCell(kilos).numFmt).toMatch(/" a"$/);
  expect(typeof proof.getRow(marked + 2).getCell(kilos).value).toBe('number');
});

test('a second aggregate of a field is a column of its own on every paper, and made of the values in that of its field', async () => {
  const given = await harvests((definition) => {
    const [kilos, picked] = ['kilos', 'picked_on'].map((each) => fieldOf(definition, each));
    const asked = [
      { field: kilos, aggregate: 'sum' },
      { field: kilos, aggregate: 'average' },
      { field: picked, aggregate: 'greatest' },
    ];
    return [
      writtenCriteria(definition, 'id <= 60 and kilos is not null'),
      { kind: 'set proof', property: 'totals', from: asked.slice(0, 1), to: asked },
    ];
  });
  const { table, lines } = await linesOf(given);
  const at = ['Kilos', 'Kilos, average', 'Picked on'].map((header) => table.columns.findIndex((each) => each.header === header));
  const everything = lines.at(-1);
  if (!everything || at.includes(-1)) throw new Error('there is a column of each');
  const [sum = '', average = '', last = ''] = at.map((index) => columnWords(everything, table.columns[index] as never, table));
  expect([sum.startsWith('sum '), /^[\d.]+$/.test(average), last.startsWith('greatest ')]).toEqual([true, true, true]);
  const label = 'Everything';
  const html = (await paper(given.dataset, given.result, 'html')).bytes.toString('utf8');
  for (const told of [label, sum, average, last]) expect(html).toContain(`>${told}</t`);
  const read = words(pdfText((await paper(given.dataset, given.result, 'pdf')).bytes, '-layout'));
  for (const told of [words(sum), average, words(last)]) expect(read).toContain(told);
  const xml = (await paper(given.dataset, given.result, 'xml')).bytes.toString('utf8');
  expect(xml).toContain(`<value field="kilos" total="average">${average}</value>`);
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.load((await paper(given.dataset, given.result, 'xlsx')).bytes as never);
  const row = workbook.getWorksheet('Proof')?.getRow(lines.length + 1);
  const [ofSum, ofAverage, ofLast] = at.map((index) => row?.getCell(index + 2));
  const kilos = String(ofSum?.address.replace(/\d+/, ''));
  expect((ofSum?.value as { formula: string }).formula).toMatch(new RegExp(`^SUBTOTAL\\(9,${kilos}\\d+:${kilos}\\d+\\)$`));
  expect((ofAverage?.value as { formula: string }).formula).toMatch(new RegExp(`^SUBTOTAL\\(1,${kilos}\\d+:${kilos}\\d+\\)$`));
  expect([ofSum?.numFmt, ofLast?.numFmt].map((each) => /^"(sum|greatest) "/.exec(each ?? '')?.[1])).toEqual(['sum', 'greatest']);
});
