import type { DuckDBConnection } from '@duckdb/node-api';
import type { Borders, CellValue, Font } from 'exceljs';
import type { Beside, Cell, FieldType, LineLook, MarkLook, ProofColumn, ProofTable, ReadLine, SheetField, Total } from '@cendra/core';
import {
  aggregateType,
  aggregateWord,
  columnLink,
  fieldUnder,
  isNumber,
  LEADS,
  lineLabel,
  lineLink,
  lookOf,
  marksOf,
  spreadsheetFormat,
  totalAt,
} from '@cendra/core';
import type { EngineWork, Written } from '../messages';
import type { SheetCell, Workbook } from '../xlsx';
import { aboutSheet, cellOf, inWorkbook, notesOf, sheetsOf, widthOf, xmlText } from '../xlsx';
import { INKS } from './inks';
import type { Paper } from './pdf';

type Task = EngineWork & { work: 'paper' };

/** Totals a spreadsheet can make of the rows above them, by the number its function knows them by (ISO/IEC 29500-1, 18.17.7.307, SUBTOTAL). */
const FUNCTIONS: Readonly<Partial<Record<Total['aggregate'], number>>> = { sum: 9, average: 1, greatest: 4, least: 5 };
const LEAD_WIDTH = 30;

/** The lines as a sheet whose groups fold, the rows as a second one, and what they are as a third. */
export async function writeGroupedXlsx(
  connection: DuckDBConnection,
  task: Task,
  paper: Paper,
  lines: () => AsyncIterable<ReadLine>,
): Promise<null> {
  const read = async (workbook: Workbook, isOver: () => boolean): Promise<Written> => {
    const told = await proofSheet(workbook, task, paper, lines(), isOver);
    const rows = await sheetsOf(workbook, connection, { ...task.rows, marked: task.marked }, isOver);
    return { cutTexts: told.cutTexts + rows.cutTexts, longNumbers: told.longNumbers + rows.longNumbers };
  };
  const said = [...(paper.subtitle === undefined ? [] : [paper.subtitle]), ...paper.notes];
  const about = [['What it is', task.title] as const, ...said.map((each) => ['', each] as const), ...task.about];
  await inWorkbook(task.out, read, (workbook, told) => aboutSheet(workbook, [...about, ...notesOf(told)]));
  return null;
}

async function proofSheet(
  workbook: Workbook,
  task: Task,
  { table }: Paper,
  lines: AsyncIterable<ReadLine>,
  isOver: () => boolean,
): Promise<Written> {
  const lead = table.worded ? 1 : 0;
  const heads = table.heads.length + 1;
  const sheet = workbook.addWorksheet('Proof', { views: [{ state: 'frozen', xSplit: lead, ySplit: heads }] });
  const { levels, across } = table.layout;
  const last = levels.at(-1);
  sheet.properties.outlineProperties = { summaryBelow: last?.totalsFirst !== true, summaryRight: across?.totalsFirst !== true };
  const types = table.columns.map((column) => typeUnder(column, table));
  sheet.columns = [
    ...(lead === 1 ? [{ width: LEAD_WIDTH }] : []),
    ...table.columns.map((column, at) => ({
      width: widthOf({ type: types[at] ?? column.field.type, label: column.header }) + aggregateWord(column, table).length,
    })),
  ];
  for (const line of table.heads) {
    const over = line.flatMap(({ words, columns }) => Array.from({ length: columns }, (_each, at) => (at === 0 ? xmlText(words) : null)));
    const row = sheet.addRow([...Array.from({ length: lead }, () => null), ...over]);
    row.font = { bold: true };
    row.commit();
  }
  const header = sheet.addRow([...Array.from({ length: lead }, () => ''), ...table.columns.map((each) => xmlText(each.header))]);
  header.font = { bold: true };
  table.columns.forEach((column, at) => (header.getCell(lead + at + 1).alignment = { horizontal: column.number ? 'right' : 'left' }));
  header.commit();
  const told = { cutTexts: 0, longNumbers: 0 };
  const begun = new Map<number, number>();
  let number = heads;
  const first = heads + 1;
  for await (const line of lines) {
    if (isOver()) return told;
    number++;
    if (line.kind === 'header') begun.set(line.level, number + 1);
    const look = lookOf(line, table.layout);
    const values = table.columns.map((column) => valueUnder(line, column, table));
    const cells = table.columns.map((column, at): SheetCell => {
      const shown = values[at];
      if (!shown) return { value: null };
      const cell = asCell(shown.type, shown.cell);
      const word = shown.total ? aggregateWord(column, table) : '';
      // A number has the word in its format, so that it stays a number.
      if (word !== '' && typeof cell.value === 'string') return { ...cell, value: `${word} ${cell.value}` };
      // Figures of one field are made of the values in its own column.
      const own = column.further ? table.columns.findIndex(({ key }) => key === column.field.id) : at;
      const letter = sheet.getColumn(lead + own + 1).letter;
      const from = line.level === 0 ? first : (begun.get(line.level) ?? first);
      const formula =
        shown.total && task.rows.whole && !task.marked
          ? formulaOf(shown.total, table, column, cell, `${letter}${from}:${letter}${number - 1}`)
          : undefined;
      if (formula !== undefined) return { value: { formula, result: cell.value as number } };
      const link = columnLink(line, column);
      return link === undefined ? cell : { ...cell, value: leading(cell.value, link) };
    });
    told.cutTexts += cells.filter((each) => each.cut).length;
    told.longNumbers += cells.filter((each) => each.long).length;
    const leads = lineLink(line, table);
    const label = leads === undefined ? xmlText(lineLabel(line, table)) : leading(LEADS, leads);
    const row = sheet.addRow([...(lead === 1 ? [label] : []), ...cells.map((each): CellValue => each.value)]);
    row.outlineLevel = line.kind === 'row' ? table.layout.levels.length : Math.max(0, line.kind === 'header' ? line.level : line.level - 1);
    row.font = { bold: look !== 'row' };
    if (lead === 1) row.getCell(1).alignment = { indent: Math.max(0, line.level - 1) };
    table.columns.forEach((column, at) => {
      const cell = row.getCell(lead + at + 1);
      const { looks, letters } = marksOf(line, column, table);
      const shown = values[at];
      const format = shown && formatOf(shown, fieldUnder(line, column, table));
      const word = shown?.total ? aggregateWord(column, table) : '';
      // What stands around a number stands in its format, so that it stays a number.
      if (letters !== '' || word !== '') cell.numFmt = around(format ?? 'General', word, letters);
      else if (format !== undefined) cell.numFmt = format;
      if (looks.length > 0) cell.font = fontOf(looks, look);
      const border = bordersOf(look, looks.includes('boxed'));
      if (border) cell.border = border;
    });
    row.commit();
  }
  sheet.commit();
  return told;
}

/** A format with a word before what it shows, of each sign, and letters behind it. */
const around = (format: string, word: string, letters: string): string =>
  `${word === '' ? format : format.replaceAll(/(^|;)(?=(?:[^"]*"[^"]*")*[^"]*$)/g, `$1"${word} "`)}${letters === '' ? '' : `" ${letters}"`}`;

/** So long may an address be in a spreadsheet, and in a formula (ISO/IEC 29500 leaves both to its programs). */
const LINK_MOST = 2_000;
const FORMULA_TEXT_MOST = 255;

/** A value that leads somewhere: a text as a link, a number by a formula, so that it stays one. Other values stay as they are. */
function leading(value: CellValue, link: string): CellValue {
  if (typeof value === 'string' && link.length <= LINK_MOST) return { text: value, hyperlink: link };
  if (typeof value === 'number' && link.length <= FORMULA_TEXT_MOST)
    return { formula: `HYPERLINK("${link.replaceAll('"', '""')}",${value})`, result: value };
  return value;
}

interface Shown {
  readonly cell: Cell;
  readonly type: FieldType;
  readonly total?: Total;
  readonly beside?: Beside;
}

/** What stands under a column: the row's value, or which total of the line. */
function valueUnder(line: ReadLine, column: ProofColumn, table: ProofTable): Shown | undefined {
  if (line.kind === 'header') return undefined;
  if (line.kind === 'row') return column.further ? undefined : { cell: line.value(column.field.id) ?? null, type: column.field.type };
  const found = totalAt(line, column, table);
  if (column.beside) return found && besideUnder(line, column.beside, found);
  const field = found && table.fields.find((each) => each.id === found.total.field);
  return found && field && { cell: line.total(found.index), type: aggregateType(found.total.aggregate, field.type), total: found.total };
}

/** What stands beside a total is told by other groups, and so is a value. */
function besideUnder(line: ReadLine, kind: Beside, { total, index }: { readonly total: Total; readonly index: number }): Shown | undefined {
  if (!total.beside?.includes(kind)) return undefined;
  return { cell: line.beside(index, kind), type: kind === 'rank' ? WHOLE : NUMBER, beside: kind };
}

const WHOLE: FieldType = { kind: 'whole' };
const NUMBER: FieldType = { kind: 'decimal', precision: 38, scale: 6 };

function typeUnder(column: ProofColumn, { layout }: ProofTable): FieldType {
  const figures = column.place !== undefined || column.further || !layout.rows;
  const total = column.total === undefined || !figures ? undefined : layout.totals[column.total % layout.totals.length];
  return total ? aggregateType(total.aggregate, column.field.type) : column.field.type;
}

function asCell(type: FieldType, cell: Cell): SheetCell {
  if (cell === null || typeof cell === 'string') return cellOf({ type }, cell);
  return 'm' in cell ? { value: xmlText(`! ${cell.m}`) } : { ...cellOf({ type }, cell.t), cut: true };
}

/** A total as what makes it of the rows above it; undefined where a spreadsheet would make another figure of them. */
function formulaOf(total: Total, { layout, fields }: ProofTable, column: ProofColumn, cell: SheetCell, range: string): string | undefined {
  const known = FUNCTIONS[total.aggregate];
  const field = fields.find((each) => each.id === total.field);
  // Where totals stand before rows, they would be among what those of a wider group are told of.
  const behind = !layout.grandTotalFirst && !layout.levels.some((each) => each.totalsFirst);
  const plain = behind && layout.rows && !layout.across && field !== undefined && isNumber(field.type);
  if (known === undefined || !plain || typeof cell.value !== 'number') return undefined;
  if (total.aggregate === 'sum' && field.addsUp !== 'over everything') return undefined;
  return `SUBTOTAL(${known},${range})`;
}

const COUNTS: readonly Total['aggregate'][] = ['count', 'distinct count'];

function formatOf({ type, total, beside }: Shown, field: SheetField): string | undefined {
  if (beside === 'share' || beside === 'change' || beside === 'change across') return '#,##0.0';
  if (beside === 'rank') return '#,##0';
  if (total && COUNTS.includes(total.aggregate)) return '#,##0';
  return spreadsheetFormat({ type, role: total ? 'measure' : field.role }, field.format);
}

function fontOf(looks: readonly MarkLook[], look: LineLook): Partial<Font> {
  const ink = looks.map((each) => INKS[each]).find((each) => each !== undefined);
  const font = { bold: look !== 'row' || looks.includes('strong'), italic: looks.includes('faint') };
  return ink === undefined ? font : { ...font, color: { argb: `FF${ink.slice(1).toUpperCase()}` } };
}

function bordersOf(look: LineLook, boxed: boolean): Partial<Borders> | undefined {
  const thin = { style: 'thin' as const };
  if (boxed) return { top: thin, bottom: thin, left: thin, right: thin };
  if (look === 'totals') return { top: thin };
  return look === 'grand total' ? { top: { style: 'double' } } : undefined;
}
