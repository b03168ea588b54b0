import type { DuckDBConnection } from '@duckdb/node-api';
import { setImmediate as turn } from 'node:timers/promises';
import type { Cell, ReadLine } from '@cendra/core';
import { legendOf, lineReader, proofTable } from '@cendra/core';
import type { EngineAnswers, EngineWork } from '../messages';
import { page } from '../result-pages';
import type { Paper } from './pdf';
import { writePdf } from './pdf';
import { writeGroupedXlsx } from './grouped-xlsx';
import { writeText } from './texts';

type Task = EngineWork & { work: 'paper' };

/** Lines that are read at once. */
const READ_AT_ONCE = 5_000;
/** A page of them may be so large; a text that is larger is cut, as one of a stored result is. */
const PAGE_BYTES = 64_000_000;
const CELL_CHARACTERS = 100_000;

/** The lines of a proof as a file to be read: on pages, or as one text. */
export async function writePaper(connection: DuckDBConnection, task: Task, isStopped: () => boolean): Promise<EngineAnswers['paper']> {
  const table = proofTable(task.layout, task.fields, task.across);
  const paper: Paper = {
    table,
    title: task.title,
    ...(task.subtitle === undefined ? {} : { subtitle: task.subtitle }),
    notes: [...task.notes, ...legendOf(table)],
    language: task.language,
    out: task.out,
    ...(task.drawn ? { drawn: task.drawn } : {}),
  };
  const lines = () => linesOf(connection, task, isStopped);
  if (task.format === 'pdf') return writePdf(paper, lines);
  return task.format === 'xlsx' ? writeGroupedXlsx(connection, task, paper, lines) : writeText(task.format, paper, lines);
}

async function* linesOf(connection: DuckDBConnection, task: Task, isStopped: () => boolean): AsyncIterable<ReadLine> {
  const read = lineReader(task, task.layout);
  for (let offset = 0; offset < task.lines;) {
    const bytes = await page(connection, {
      work: 'page',
      file: task.file,
      columns: task.columns,
      sorted: false,
      marked: task.marked,
      offset,
      limit: READ_AT_ONCE,
      cellBytes: CELL_CHARACTERS,
      pageBytes: PAGE_BYTES,
    });
    const rows = JSON.parse(new TextDecoder().decode(bytes)) as readonly (readonly Cell[])[];
    if (rows.length === 0) return;
    offset += rows.length;
    for (const [at, row] of rows.entries()) {
      yield read(row);
      // Others are heard in between, and whoever stops this.
      if (at % 50 === 49) await turn();
      if (isStopped()) throw new Error('stopped while it was written');
    }
  }
}
