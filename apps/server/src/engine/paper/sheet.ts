import type { Run, SetText } from './type';
import { widthOf } from './type';

type Doc = PDFKit.PDFDocument;
type Element = PDFKit.PDFStructureElement;

interface Placed {
  readonly size: number;
  /** Where the text ends, where it stands to the right. */
  readonly right?: number;
}

/** Lines above the first ones of a table, of one size. */
export interface Heading {
  readonly is: 'title' | 'subtitle' | 'note';
  readonly lines: readonly SetText[];
  readonly size: number;
  readonly line: number;
}

const INK = '#1a1a18';
const SOFT = '#5f5c55';
const RULE = '#cfcabd';
/** From the top of a line of text to where its letters stand, in sizes. */
const RISE = 1.07;
const ON_LINE = { lineBreak: false, baseline: 'alphabetic' } as const;

/** A page that is being written: texts and rules, in tags where the paper has them. */
export class Sheet {
  private root: Element | undefined;
  private rows: Element | undefined;
  private cells: Element | undefined;
  private readonly rules = new Map<number, { readonly from: number; readonly until: number; readonly y: number }[]>();
  private ink = '';
  private file = '';
  private readonly fonts = new Set<string>();
  private size = 0;

  constructor(
    private readonly doc: Doc,
    private readonly tagged: boolean,
  ) {
    if (!tagged) return;
    this.root = doc.struct('Document');
    doc.addStructure(this.root);
  }

  begin(): void {
    this.doc.addPage();
    this.ink = '';
  }

  /** What is written from here on is a table of its own. */
  table(): void {
    if (!this.root) return;
    this.rows = this.doc.struct('Table');
    this.root.add(this.rows);
  }

  row(): void {
    this.endRow();
    if (!this.rows) return;
    this.cells = this.doc.struct('TR');
    this.rows.add(this.cells);
  }

  private endRow(): void {
    this.cells?.end();
    this.cells = undefined;
  }

  end(): void {
    this.endRow();
    this.drawRules();
    this.rows?.end();
    this.rows = undefined;
  }

  /** Lines of text as one cell. */
  cell(kind: 'TH' | 'TD', lines: readonly SetText[], write: (text: SetText, index: number) => void): void {
    const all = () => lines.forEach(write);
    if (!this.cells) return all();
    this.cells.add(this.doc.struct(kind, {}, all));
  }

  /** A text whose line begins at `y`. */
  text(text: SetText, x: number, y: number, { size, right }: Placed, ink = INK): void {
    let at = right === undefined ? x : right - widthOf(text, size);
    for (const run of text.runs) {
      this.set(ink, run, size);
      this.doc.text(run.text, at, y + RISE * size, ON_LINE);
      at += (run.width * size) / 1_000;
    }
  }

  /** The same upright, read from below: it begins at `foot`, and its line stands right of `x`. */
  turned(text: SetText, x: number, foot: number, size: number): void {
    const [first] = text.runs;
    if (!first) return;
    // What is set while it is turned would be forgotten behind it.
    this.set(INK, first, size);
    this.doc.save();
    this.doc.rotate(-90, { origin: [x, foot] });
    this.text(text, x, foot, { size });
    this.doc.restore();
  }

  /** What a page has from before is not set again. */
  private set(ink: string, { file, font }: Run, size: number): void {
    if (this.ink !== ink) this.doc.fillColor((this.ink = ink));
    if (this.file === file && this.size === size) return;
    // Fonts are opened once for all papers.
    if (!this.fonts.has(file)) this.doc.registerFont(file, font as never);
    this.fonts.add(file);
    this.doc.font((this.file = file), (this.size = size));
  }

  /** Drawn when the page ends, all of one width at once. */
  rule(from: number, until: number, y: number, width: number): void {
    const alike = this.rules.get(width) ?? [];
    alike.push({ from, until, y });
    this.rules.set(width, alike);
  }

  private drawRules(): void {
    this.aside(() => {
      for (const [width, alike] of this.rules) {
        this.doc.lineWidth(width).strokeColor(width < 0.3 ? RULE : INK);
        for (const { from, until, y } of alike) this.doc.moveTo(from, y).lineTo(until, y);
        this.doc.stroke();
      }
    });
    this.rules.clear();
  }

  box(x: number, y: number, width: number, height: number): void {
    this.aside(() => this.doc.rect(x, y, width, height).lineWidth(0.6).strokeColor(INK).stroke());
  }

  /** What stands there leads to an address; a thin line below it says so. */
  link(x: number, y: number, width: number, height: number, address: string): void {
    this.doc.link(x, y, width, height, address);
    this.rule(x, x + width, y + height - 1.5, 0.4);
  }

  /** What stands above the first lines; gives where it ends. */
  heading(headings: readonly Heading[], x: number, top: number): number {
    let y = top;
    for (const { is, lines, size, line } of headings) {
      const all = () => {
        for (const each of lines) {
          this.text(each, x, y, { size }, is === 'note' ? SOFT : INK);
          y += line;
        }
      };
      if (this.root && lines.length > 0) this.root.add(this.doc.struct(is === 'title' ? 'H1' : 'P', {}, all));
      else all();
    }
    return y + (headings.at(-1)?.line ?? 0) / 2;
  }

  /** A picture, with what it shows for who does not see it. */
  picture(bytes: Buffer, x: number, y: number, size: { readonly width: number; readonly height: number }, says: string): void {
    const draw = () => this.doc.image(bytes, x, y, size);
    if (this.root) this.root.add(this.doc.struct('Figure', { alt: says }, draw));
    else draw();
  }

  /** What stands at the foot of every page, and is no part of what is read. */
  foot(left: SetText, right: SetText, x: number, until: number, y: number, size: number): void {
    this.aside(() => {
      this.text(left, x, y - size, { size }, SOFT);
      this.text(right, x, y - size, { size, right: until }, SOFT);
    });
  }

  private aside(draw: () => void): void {
    if (!this.tagged) return draw();
    this.doc.markContent('Artifact', { type: 'Layout' });
    draw();
    this.doc.endMarkedContent();
  }
}
