import { createWriteStream } from 'node:fs';
import { setImmediate as turn } from 'node:timers/promises';
import type { DuckDBConnection } from '@duckdb/node-api';
import type { CellValue, Worksheet } from 'exceljs';
import ExcelJS from 'exceljs';
import { beginning, instantIn, UTC } from '@cendra/core';
import type { EngineWork, StoredColumn, Written, WrittenColumn } from './messages';
import { source } from './result-pages';
import { MARKS, quoted, storedText } from './stored-text';

type Write = EngineWork & { work: 'write' };

/** ECMA-376: rows of a sheet, characters of a cell, digits a number keeps. */
const MOST_ROWS = 1_048_576;
const MOST_CHARACTERS = 32_767;
const MOST_DIGITS = 15;
/** Rows that are written before others are heard. */
const ROWS_A_TURN = 100;
/** Days before 1 March 1900 have no number that every program reads alike. */
const FIRST_DAY = '1900-03-01';

export interface SheetCell {
  readonly value: CellValue;
  readonly cut?: true;
  readonly long?: true;
}

/**
 * Rows as a spreadsheet: values of their type in their number format under a header that stays, rows beyond one
 * sheet on further ones, and a sheet that says what they are. Written as it is read, so its size does not matter.
 */
export function writeXlsx(connection: DuckDBConnection, task: Write): Promise<Written> {
  const read = (workbook: Workbook, isOver: () => boolean) => sheetsOf(workbook, connection, task, isOver);
  return inWorkbook(task.out, read, (workbook, told) => aboutSheet(workbook, [...task.about, ...notesOf(told)]));
}

export type Workbook = ExcelJS.stream.xlsx.WorkbookWriter;

/** A workbook that is written while `read` fills it, which ends when there is nowhere to write; `finish` adds what is known then. */
export async function inWorkbook<T>(
  file: string,
  read: (workbook: Workbook, isOver: () => boolean) => Promise<T>,
  finish: (workbook: Workbook, told: T) => void,
): Promise<T> {
  const out = createWriteStream(file, { mode: 0o600 });
  const opened = new Promise((resolve) => out.once('open', resolve));
  // The workbook never hears of what goes wrong with its file, and would wait for it for ever.
  const failed = new Promise<never>((_resolve, reject) => out.once('error', reject));
  const workbook = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: out, useStyles: true, useSharedStrings: false });
  workbook.creator = 'Cendra';
  const reading = Promise.race([opened, failed]).then(() => read(workbook, () => out.destroyed));
  try {
    const finished = reading.then(async (told) => {
      finish(workbook, told);
      await workbook.commit();
      return told;
    });
    return await Promise.race([failed, finished]);
  } finally {
    out.destroy();
    // The connection is closed behind this, and must not be while rows are read of it.
    await reading.catch(() => undefined);
  }
}

/** All rows, until there is nowhere to write them. */
export async function sheetsOf(
  workbook: Workbook,
  connection: DuckDBConnection,
  task: Pick<Write, 'columns' | 'marked' | 'file'>,
  isOver: () => boolean,
): Promise<Written> {
  const told = { cutTexts: 0, longNumbers: 0 };
  const marks = task.marked ? `, ${MARKS}` : '';
  const list = task.columns.map((column) => `${storedText(column)} as ${quoted(column.id)}`);
  const reader = await connection.stream(`select ${list.join(', ')}${marks} from ${source(task.file, false)}`);
  let sheet = newSheet(workbook, task.columns, 1);
  let sheets = 1;
  let rows = 1;
  for await (const chunk of reader.yieldRowsJson()) {
    if (isOver()) return told;
    for (const row of chunk as (string | null)[][]) {
      if (rows === MOST_ROWS) {
        sheet.commit();
        sheet = newSheet(workbook, task.columns, ++sheets);
        rows = 1;
      }
      rows++;
      const marked = task.marked ? marksOf(row[task.columns.length] ?? null) : NO_MARKS;
      const cells = task.columns.map((column, index) => cellOf(column, marked[column.id] ?? row[index] ?? null));
      told.cutTexts += cells.filter((each) => each.cut).length;
      told.longNumbers += cells.filter((each) => each.long).length;
      sheet.addRow(cells.map((each) => each.value)).commit();
      // Others are heard in between: this is the one work of the engine that is done on its own thread.
      if (rows % ROWS_A_TURN === 0) await turn();
    }
  }
  sheet.commit();
  return told;
}

const NO_MARKS: Readonly<Record<string, string | null>> = {};
const marksOf = (text: string | null) => (text === null ? NO_MARKS : (JSON.parse(text) as Record<string, string | null>));

function newSheet(workbook: Workbook, columns: readonly WrittenColumn[], number: number): Worksheet {
  const sheet = workbook.addWorksheet(number === 1 ? 'Rows' : `Rows ${number}`, { views: [{ state: 'frozen', ySplit: 1 }] });
  sheet.columns = columns.map((column) => ({
    header: xmlText(column.label),
    width: widthOf(column),
    style: column.numberFormat === undefined ? {} : { numFmt: column.numberFormat },
  }));
  const header = sheet.getRow(1);
  header.font = { bold: true };
  header.eachCell((cell, index) => {
    cell.numFmt = '@';
    cell.alignment = { horizontal: isNumber(columns[index - 1]) ? 'right' : 'left' };
  });
  header.commit();
  return sheet as unknown as Worksheet;
}

const isNumber = (column: StoredColumn | undefined) => column !== undefined && ['whole', 'decimal', 'float'].includes(column.type.kind);

export function widthOf({ type, label }: Pick<WrittenColumn, 'type' | 'label'>): number {
  const usual = { text: 24, json: 30, whole: 12, decimal: 14, float: 16, yesno: 8, date: 13, time: 12, datetime: 20, instant: 22 }[
    type.kind
  ];
  return Math.min(60, Math.max(usual, label.length + 2));
}

/** A sheet keeps thousandths of a second; what is finer is written as text rather than cut. */
const momentCell = (text: string): SheetCell => ({
  value:
    text >= FIRST_DAY && /^\d{4}-/.test(text) && !/\.\d{3}\d*[1-9]/.test(text)
      ? new Date(`${text.slice(0, 10)}T${text.slice(11, 23)}Z`)
      : text,
});

/** A stored value in the type a spreadsheet has for it. Texts are never formulas: they are written as texts. */
export function cellOf({ type }: Pick<StoredColumn, 'type'>, text: string | null): SheetCell {
  if (text === null) return { value: null };
  switch (type.kind) {
    case 'whole':
    case 'decimal':
      return numberCell(text);
    case 'float':
      return { value: Number.isFinite(Number(text)) ? Number(text) : text };
    case 'yesno':
      return { value: text === 'true' ? true : text === 'false' ? false : text };
    case 'date':
      return { value: text >= FIRST_DAY && text.length === 10 ? new Date(`${text}T00:00:00Z`) : text };
    case 'datetime':
      return momentCell(text);
    case 'instant':
      // A sheet knows no zones: it gets what clocks of the dataset's zone showed.
      return momentCell(instantIn(type.zone ?? UTC, text).replace(/[+-][\d:]+$/, ''));
    default:
      return text.length > MOST_CHARACTERS ? { value: xmlText(beginning(text, MOST_CHARACTERS)), cut: true } : { value: xmlText(text) };
  }
}

/** XML has no way to write half of a character. */
const HALVES = /[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g;
/** Nor these, for which a spreadsheet has a way of its own, in which also stands what only looks like it (ISO/IEC 29500-1, 22.9.2.19). */
// eslint-disable-next-line no-control-regex
const ESCAPED = /[\u0000-\u0008\u000B-\u001F\u007F\uFFFE\uFFFF]|_(?=x[0-9A-Fa-f]{4}_)/g;
export const xmlText = (text: string) =>
  text.replaceAll(HALVES, '\uFFFD').replaceAll(ESCAPED, (char) => `_x${char.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}_`);

function numberCell(text: string): SheetCell {
  // Zeros around them are none that a spreadsheet would lose.
  const digits = text.replace(/[^0-9]/g, '').replace(/^0+|0+$/g, '');
  if (!Number.isFinite(Number(text))) return { value: text };
  return digits.length > MOST_DIGITS ? { value: text, long: true } : { value: Number(text) };
}

/** What a spreadsheet could not hold as it is. */
export const notesOf = ({ cutTexts, longNumbers }: Written): readonly (readonly [string, string])[] => [
  ...(cutTexts > 0 ? [['Cut', `${cutTexts} texts are longer than ${MOST_CHARACTERS} characters and are cut`] as const] : []),
  ...(longNumbers > 0
    ? [['Numbers as text', `${longNumbers} numbers have more than ${MOST_DIGITS} digits and are written as text`] as const]
    : []),
];

export function aboutSheet(workbook: Workbook, about: readonly (readonly [string, string])[]): void {
  const sheet = workbook.addWorksheet('About');
  sheet.columns = [{ width: 24 }, { width: 90 }];
  for (const line of about) sheet.addRow(line.map(xmlText)).commit();
  sheet.commit();
}
