import { createWriteStream } from 'node:fs';
import { finished } from 'node:stream/promises';
import PDFDocument from 'pdfkit';
import type { LineLook, ProofTable, ReadLine } from '@cendra/core';
import { columnLink, columnWords, freeColumns, LEADS, lineLabel, lineLink, lookOf, marksOf } from '@cendra/core';
import type { HeadsPlan } from './heads';
import { headsPlan, spanOf, sum, turnedText } from './heads';
import { INKS } from './inks';
import type { Measured, Piece } from './pages';
import { pagesOf, slicesOf } from './pages';
import type { Heading } from './sheet';
import { Sheet } from './sheet';
import type { SetText, Weight } from './type';
import { Type, widthOf } from './type';
import type { EngineWork } from '../messages';

type Task = EngineWork & { work: 'paper' };

/** ISO 216 A4, in points, upright. */
const PAPER = { width: 595.28, height: 841.89 };
const MARGIN = 36;
const SIZE = 8.5;
const LINE = 12;
const PADDING = 4;
const TITLE = { size: 14, line: 19 };
const SUBTITLE = { size: 10.5, line: 14 };
const NOTE = { size: 8, line: 11 };
const FOOT = 18;
/** Columns are no wider than this; longer texts go on below. */
const WIDEST = 200;
const NARROWEST = 24;
const SIZES = { size: SIZE, line: LINE, padding: PADDING, widest: WIDEST };
const INDENT = 10;
/** Lines up to which a paper is tagged, so that screen readers read it as a table: tags take room as long as it is written. */
export const TAGGED_MOST = 2_000;

export interface Paper {
  readonly table: ProofTable;
  readonly title: string;
  readonly subtitle?: string;
  readonly notes: readonly string[];
  readonly language: string;
  readonly out: string;
  readonly drawn?: NonNullable<Task['drawn']>;
}

interface Cell {
  /** Its lines as they are given. */
  readonly given: readonly SetText[];
  readonly boxed: boolean;
  /** Of good and poor; left out where it is that of the line. */
  readonly ink?: string;
  /** Where it leads to. */
  readonly link?: string;
}

/** Read twice: first how wide and high everything is, then it is written page by page, so that its size does not matter. */
export async function writePdf(paper: Paper, lines: () => AsyncIterable<ReadLine>): Promise<{ readonly pages: number }> {
  const { table } = paper;
  const shown = new ShownLines(table);
  const plan = await planned(paper, shown, lines);
  const doc = new PDFDocument({
    autoFirstPage: false,
    margin: 0,
    size: [plan.width, plan.height],
    lang: paper.language,
    displayTitle: true,
    pdfVersion: '1.7',
    // It would keep every text there is; the fonts remember some.
    fontLayoutCache: false,
    tagged: plan.tagged,
    info: { Title: paper.title, Creator: 'Cendra', Producer: 'Cendra' },
  });
  const out = createWriteStream(paper.out, { mode: 0o600 });
  // What goes wrong with the file is looked for page by page, and at its end.
  out.on('error', () => undefined);
  doc.pipe(out);
  const sheet = new Sheet(doc, plan.tagged);
  const pages = plan.pages.length * plan.slices.length;
  let number = 0;
  let at = 0;
  const reading = lines()[Symbol.asyncIterator]();
  let known: { readonly line: number; readonly read: ReadLine } | undefined;
  const lineAt = async (line: number): Promise<ReadLine> => {
    while (known?.line !== line) {
      const next = await reading.next();
      if (next.done === true) throw new RangeError('a line that was measured is there');
      known = { line: at++, read: next.value };
    }
    return known.read;
  };
  try {
    for (const [index, pieces] of plan.pages.entries()) {
      const onPage: { readonly piece: Piece; readonly line: ShownLine }[] = [];
      for (const piece of pieces) onPage.push({ piece, line: shown.known(piece.line) ?? shown.of(piece.line, await lineAt(piece.line)) });
      for (const slice of plan.slices) {
        if (out.errored) throw out.errored;
        number++;
        sheet.begin();
        let y = MARGIN;
        if (index === 0) y = drawing(sheet, paper, plan, sheet.heading(plan.above, MARGIN, y));
        sheet.table();
        y = heads(sheet, paper, plan, slice, y);
        for (const { piece, line } of onPage) y = row(sheet, table, plan, slice, piece, line, y);
        foot(sheet, paper.title, `page ${number} of ${pages}`, plan);
        sheet.end();
      }
    }
    doc.end();
    await finished(out);
  } finally {
    out.destroy();
    await reading.return?.(undefined);
  }
  return { pages };
}

interface Plan {
  readonly width: number;
  readonly height: number;
  /** Of the words lines begin with; 0 where they begin with none. */
  readonly lead: number;
  /** Those words go on below columns their line has nothing under. */
  readonly goesOn: boolean;
  readonly widths: readonly number[];
  readonly heads: HeadsPlan;
  readonly slices: readonly (readonly number[])[];
  readonly pages: readonly (readonly Piece[])[];
  readonly above: readonly Heading[];
  readonly tagged: boolean;
  /** How large the picture above the lines stands there; undefined where there is none. */
  readonly drawn: { readonly width: number; readonly height: number } | undefined;
}

async function planned(
  { table, title, subtitle = '', notes, drawn: picture }: Paper,
  shown: ShownLines,
  lines: () => AsyncIterable<ReadLine>,
): Promise<Plan> {
  const widest = table.columns.map(() => NARROWEST);
  const measured: Measured[] = [];
  /** The widest words, by the number of columns they may go on below. */
  const words = new Map<number, number>();
  const lacking = new Set<string>();
  const look = ({ lacks }: SetText) => lacks.forEach((each) => lacking.add(each));
  for await (const line of lines()) {
    const { cells, label, indent, free } = shown.of(measured.length, line);
    let height = 1;
    const widthIn = (given: readonly SetText[], aside: number): number => {
      const width = Math.max(...given.map((each) => widthOf(each, SIZE))) + aside;
      given.forEach(look);
      if (width > WIDEST || given.length > 1) height = Math.max(height, type.fitted(given, SIZE, WIDEST - aside).length);
      return Math.min(width, WIDEST);
    };
    if (label.length > 0) words.set(free, Math.max(words.get(free) ?? 0, widthIn(label, 2 * PADDING + indent)));
    for (const [column, { given }] of cells.entries())
      if (given.length > 0) widest[column] = Math.max(widest[column] ?? 0, widthIn(given, 2 * PADDING));
    measured.push({ height, kind: line.kind, level: line.level });
  }
  const least = table.worded ? NARROWEST : 0;
  const apart = Math.max(least, ...words.values());
  const heads = headsPlan(table, widest, PAPER.height - 2 * MARGIN - apart, type, SIZES);
  const { widths } = heads;
  const columns = sum(widths);
  const within = Math.max(least, ...Array.from(words, ([free, width]) => width - sum(widths.slice(0, free))));
  // Columns that stand on further pages beside have nothing for words to go on below, so there they keep to themselves.
  const goesOn = within + columns <= PAPER.height - 2 * MARGIN;
  const lead = goesOn ? within : apart;
  const all = lead + columns;
  const upright = all <= PAPER.width - 2 * MARGIN;
  const [width, height] = upright ? [PAPER.width, PAPER.height] : [PAPER.height, PAPER.width];
  const room = width - 2 * MARGIN;
  const headed = heads.own.height + heads.over.reduce((lines, each) => lines + each.height, 0);
  for (const each of [title, ...table.columns.map(({ header }) => header), ...table.heads.flat().map(({ words }) => words)])
    type.given(each, 'bold').forEach(look);
  for (const each of [subtitle, ...notes]) type.given(each, 'plain').forEach(look);
  const told =
    lacking.size === 0 ? notes : [...notes, `${lacking.size} letters have no form in the type this is written in, and stand as boxes.`];
  const headings: readonly Heading[] = [
    { ...TITLE, is: 'title', lines: type.lines(title, 'bold', TITLE.size, room) },
    { ...SUBTITLE, is: 'subtitle', lines: type.lines(subtitle, 'plain', SUBTITLE.size, room) },
    { ...NOTE, is: 'note', lines: told.flatMap((each) => type.lines(each, 'plain', NOTE.size, room)) },
  ];
  const body = height - 2 * MARGIN - FOOT - headed * LINE - PADDING;
  const drawn = sizeOf(picture, room, height);
  const written = headings.reduce((sum, { lines: of, line }) => sum + of.length * line, 0);
  const above = written + 2 * PADDING + (drawn ? drawn.height + PADDING : 0);
  const first = Math.max(1, Math.floor((body - above) / LINE));
  return {
    width,
    height,
    lead,
    goesOn,
    widths,
    heads,
    slices: slicesOf(
      widths,
      lead,
      room,
      table.heads.map((line) => line.map(spanOf)),
    ),
    pages: pagesOf(measured, { first, others: Math.floor(body / LINE) }),
    above: headings,
    drawn,
    tagged: measured.length <= TAGGED_MOST,
  };
}

const indentOf = (line: ReadLine) => Math.max(0, line.level - 1) * INDENT;
const weightOf = (look: LineLook): Weight => (look === 'row' ? 'plain' : 'bold');

/** A line as it is written. */
interface ShownLine {
  readonly look: LineLook;
  /** The words it begins with; none where lines begin with none. */
  readonly label: readonly SetText[];
  /** Where the line leads to. */
  readonly leads: string | undefined;
  readonly indent: number;
  /** Below how many of the first columns its words may go on. */
  readonly free: number;
  readonly cells: readonly Cell[];
}

/** Cells that are kept from the first reading to the second one; those of longer papers are written out again. */
const KEPT_CELLS = 200_000;

/** Lines written out, each once where there are not too many of them. */
class ShownLines {
  private readonly kept: ShownLine[] = [];

  constructor(private readonly table: ProofTable) {}

  /** One that was kept needs not be read again. */
  known(number: number): ShownLine | undefined {
    return this.kept[number];
  }

  of(number: number, line: ReadLine): ShownLine {
    const known = this.known(number);
    if (known) return known;
    const look = lookOf(line, this.table.layout);
    const leads = lineLink(line, this.table);
    const label = leads !== undefined ? LEADS : this.table.worded ? lineLabel(line, this.table) : '';
    const shown = {
      look,
      label: type.given(label, weightOf(look)),
      leads,
      indent: indentOf(line),
      free: freeColumns(line, this.table),
      cells: cellsOf(line, this.table),
    };
    if (number === this.kept.length && number * Math.max(1, this.table.columns.length) < KEPT_CELLS) this.kept.push(shown);
    return shown;
  }
}

/** Fonts are opened once, whatever number of papers is written. */
const type = new Type();

/** What stands under each column; a lettered mark's letters stand behind its value. */
function cellsOf(line: ReadLine, table: ProofTable): readonly Cell[] {
  const own = weightOf(lookOf(line, table.layout));
  return table.columns.map((column): Cell => {
    const { looks, letters } = marksOf(line, column, table);
    const text = columnWords(line, column, table);
    const weight = looks.includes('strong') ? 'bold' : looks.includes('faint') ? 'slanted' : own;
    const ink = looks.includes('good') ? INKS.good : looks.includes('poor') ? INKS.poor : undefined;
    const link = columnLink(line, column);
    return {
      given: type.given(letters === '' ? text : `${text} ${letters}`, weight),
      boxed: looks.includes('boxed'),
      ...(ink === undefined ? {} : { ink }),
      ...(link === undefined ? {} : { link }),
    };
  });
}

/** At most so much of a page is a picture. */
const DRAWN_MOST = 0.4;

/** How large a picture stands on the page, in points. */
function sizeOf(drawn: Paper['drawn'], room: number, page: number) {
  if (!drawn) return undefined;
  const scale = Math.min(room / drawn.width, (page * DRAWN_MOST) / drawn.height);
  return { width: drawn.width * scale, height: drawn.height * scale };
}

/** The picture below the notes; gives where what is below it begins. */
function drawing(sheet: Sheet, { drawn }: Paper, plan: Plan, y: number): number {
  if (!drawn || !plan.drawn) return y;
  sheet.picture(Buffer.from(drawn.picture, 'base64'), MARGIN, y, plan.drawn, drawn.says);
  return y + plan.drawn.height + PADDING;
}

/** The heads of a slice; gives where its lines begin. */
function heads(sheet: Sheet, { table }: Paper, plan: Plan, slice: readonly number[], top: number): number {
  let y = top;
  for (const [depth, line] of table.heads.entries()) {
    const { height, turned } = plan.heads.over[depth] ?? { height: 1, turned: false };
    // A head stands over those of its columns that are on this page.
    sheet.row();
    let x = MARGIN + plan.lead;
    const of = line.flatMap((head) => Array.from({ length: head.columns }, () => head));
    for (let at = 0; at < slice.length;) {
      const head = of[slice[at] ?? 0];
      let width = 0;
      for (; at < slice.length && of[slice[at] ?? 0] === head; at++) width += plan.widths[slice[at] ?? 0] ?? 0;
      const words = head?.words ?? '';
      if (turned) uprightCell(sheet, turnedText(words, type, SIZE), x, width, y + height * LINE, true);
      else levelCell(sheet, [type.shortened(type.set(words, 'bold'), SIZE, width - 2 * PADDING)], x, width, y, true);
      x += width;
    }
    y += height * LINE;
  }
  const { height, turned, texts } = plan.heads.own;
  const foot = y + height * LINE;
  let x = MARGIN + plan.lead;
  sheet.row();
  for (const column of slice) {
    const { number } = table.columns[column] ?? { number: false };
    const width = plan.widths[column] ?? 0;
    const words = texts[column] ?? [];
    if (turned) uprightCell(sheet, words, x, width, foot, number);
    else levelCell(sheet, words, x, width, foot - words.length * LINE, number);
    x += width;
  }
  sheet.rule(MARGIN, x, foot, 0.8);
  return foot + PADDING / 2;
}

function levelCell(sheet: Sheet, words: readonly SetText[], x: number, width: number, top: number, ends: boolean): void {
  const placed = { size: SIZE, ...(ends ? { right: x + width - PADDING } : {}) };
  sheet.cell('TH', words, (each, index) => sheet.text(each, x + PADDING, top + index * LINE, placed));
}

/** Its lines stand beside one another, read from below. */
function uprightCell(sheet: Sheet, words: readonly SetText[], x: number, width: number, foot: number, ends: boolean): void {
  const from = ends ? x + width - PADDING - words.length * LINE : x + PADDING;
  sheet.cell('TH', words, (each, index) => sheet.turned(each, from + index * LINE, foot - PADDING / 2, SIZE));
}

/** The title again, which may be shortened, and which page it is. */
function foot(sheet: Sheet, title: string, page: string, { width, height }: Plan): void {
  const right = type.set(page, 'plain');
  const room = width - 2 * MARGIN - widthOf(right, NOTE.size) - NOTE.size;
  sheet.foot(type.shortened(type.set(title, 'plain'), NOTE.size, room), right, MARGIN, width - MARGIN, height - MARGIN, NOTE.size);
}

const NOTHING: Cell = { given: [], boxed: false };

/** One line, or the part of it that is on this page; gives where the next one begins. */
function row(sheet: Sheet, table: ProofTable, plan: Plan, slice: readonly number[], piece: Piece, line: ShownLine, top: number): number {
  const { look, label, leads, indent, free, cells } = line;
  const right = MARGIN + plan.lead + slice.reduce((sum, each) => sum + (plan.widths[each] ?? 0), 0);
  if (piece.from === 0 && (look === 'totals' || look === 'grand total')) sheet.rule(MARGIN, right, top, look === 'totals' ? 0.4 : 0.8);
  if (piece.from === 0 && look === 'grand total') sheet.rule(MARGIN, right, top - 1.6, 0.8);
  sheet.row();
  const part = (lines: readonly SetText[]) => lines.slice(piece.from, piece.from + piece.height);
  if (plan.lead > 0) {
    const room = plan.lead + (plan.goesOn ? sum(plan.widths.slice(0, free)) : 0);
    const words = type.fitted(label, SIZE, room - 2 * PADDING - indent);
    sheet.cell('TH', part(words), (text, index) => sheet.text(text, MARGIN + PADDING + indent, top + index * LINE, { size: SIZE }));
    if (leads !== undefined) sheet.link(MARGIN + PADDING + indent, top, plan.lead - 2 * PADDING - indent, LINE, leads);
  }
  let x = MARGIN + plan.lead;
  for (const column of slice) {
    const { given, boxed, ink, link }: Cell = cells[column] ?? NOTHING;
    const width = plan.widths[column] ?? 0;
    const number = table.columns[column]?.number ?? false;
    const written = part(type.fitted(given, SIZE, width - 2 * PADDING));
    const start = x;
    sheet.cell('TD', written, (each, index) =>
      sheet.text(each, start + PADDING, top + index * LINE, { size: SIZE, ...(number ? { right: start + width - PADDING } : {}) }, ink),
    );
    if (link !== undefined && written.length > 0) sheet.link(start + PADDING, top, width - 2 * PADDING, written.length * LINE, link);
    if (boxed && written.length > 0) sheet.box(start + 1, top, width - 2, written.length * LINE);
    x += width;
  }
  const bottom = top + piece.height * LINE;
  if (look === 'row' || look === 'header') sheet.rule(MARGIN, right, bottom, 0.2);
  return bottom;
}
