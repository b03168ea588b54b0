import { dirname, join } from 'node:path';
import type { Font } from 'fontkit';
import { openSync } from 'fontkit';

/** Letters come from one family, cut into files by script; a text takes each letter from the first file that has it. */
const SCRIPTS = ['latin', 'latin-ext', 'greek', 'greek-ext', 'cyrillic', 'cyrillic-ext', 'vietnamese', 'devanagari'] as const;
const WEIGHTS = { plain: '400-normal', bold: '700-normal', slanted: '400-italic' } as const;
export type Weight = keyof typeof WEIGHTS;

const files = join(dirname(require.resolve('@fontsource/noto-sans/package.json')), 'files');
/** Widths are asked again and again, for figures repeat. */
const KNOWN_MOST = 50_000;

/** Blanks of other widths, some of which the family has not: between digits any of them will do. */
const SPACE = /[\u2000-\u200A\u202F\u205F\u3000\t]/;
const FIGURE = /^[\d\s.,:+\-\u2212]*$/;
/** Widths are sums of fractions; what is wider by less than this is as wide. */
const NEARLY = 0.01;

export interface Run {
  readonly file: string;
  readonly text: string;
}

/** Letters of one weight: how wide texts are, and which files they are written with. */
class Letters {
  private readonly fonts: (Font | undefined)[] = [];
  private readonly byPoint = new Map<number, number>();
  private readonly widths = new Map<string, number>();
  private readonly advances = new Map<string, number>();
  /** Letters no file has; they stand as boxes. */
  readonly missing = new Set<number>();

  constructor(private readonly weight: Weight) {}

  fileOf(at: number): string {
    return join(files, `noto-sans-${SCRIPTS[at]}-${WEIGHTS[this.weight]}.woff`);
  }

  /** In thousandths of the size. */
  width(text: string): number {
    if (FIGURE.test(text)) return Array.from(text).reduce((sum, letter) => sum + this.advance(letter), 0);
    const known = this.widths.get(text);
    if (known !== undefined) return known;
    const width = this.runs(text).reduce((sum, { at, text: part }) => {
      const font = this.font(at);
      return sum + (1_000 * font.layout(part).advanceWidth) / font.unitsPerEm;
    }, 0);
    if (this.widths.size >= KNOWN_MOST) this.widths.clear();
    this.widths.set(text, width);
    return width;
  }

  /** Of a letter by itself: digits and what stands among them are set apart alike whatever their neighbours. */
  private advance(letter: string): number {
    const known = this.advances.get(letter);
    if (known !== undefined) return known;
    const [run] = this.runs(letter);
    const font = this.font(run?.at ?? 0);
    const width = (1_000 * font.layout(run?.text ?? letter).advanceWidth) / font.unitsPerEm;
    this.advances.set(letter, width);
    return width;
  }

  runs(text: string): readonly { readonly at: number; readonly text: string }[] {
    const runs: { at: number; text: string }[] = [];
    for (const written of text) {
      const letter = SPACE.test(written) ? '\u00A0' : written;
      const at = this.scriptOf(letter.codePointAt(0) ?? 0);
      const last = runs.at(-1);
      if (last && (last.at === at || letter === ' ')) last.text += letter;
      else runs.push({ at: Math.max(at, 0), text: letter });
    }
    return runs;
  }

  private font(at: number): Font {
    return (this.fonts[at] ??= openSync(this.fileOf(at)) as Font);
  }

  private scriptOf(point: number): number {
    const known = this.byPoint.get(point);
    if (known !== undefined) return known;
    const at = SCRIPTS.findIndex((_script, index) => this.font(index).hasGlyphForCodePoint(point));
    if (at < 0) this.missing.add(point);
    this.byPoint.set(point, at);
    return at;
  }
}

/** The letters a paper is written in. */
export class Type {
  private readonly weights = { plain: new Letters('plain'), bold: new Letters('bold'), slanted: new Letters('slanted') };

  /** How many different letters no file had so far. */
  get missing(): number {
    return new Set(Object.values(this.weights).flatMap((each) => [...each.missing])).size;
  }

  /** How wide a text is, in points, at a size in points. */
  width(text: string, weight: Weight, size: number): number {
    return (this.weights[weight].width(text) * size) / 1_000;
  }

  runs(text: string, weight: Weight): readonly Run[] {
    const letters = this.weights[weight];
    return letters.runs(text).map((each) => ({ file: letters.fileOf(each.at), text: each.text }));
  }

  /** A text in lines that are so wide at most: broken at blanks, within a word only where the word is wider. Nothing is lost but blanks at breaks. */
  lines(text: string, weight: Weight, size: number, most: number): readonly string[] {
    return text.split(/\r\n|\r|\n/).flatMap((part) => this.broken(part, weight, size, most));
  }

  private broken(text: string, weight: Weight, size: number, most: number): readonly string[] {
    const fits = (part: string) => this.width(part, weight, size) <= most + NEARLY;
    if (fits(text)) return [text];
    const lines: string[] = [];
    let line = '';
    for (const word of text.split(/(?<=\s)(?=\S)/u)) {
      if (fits((line + word).trimEnd())) {
        line += word;
        continue;
      }
      if (line !== '') lines.push(line.trimEnd());
      line = '';
      for (const letter of letters(word)) {
        if (line !== '' && !fits((line + letter).trimEnd())) {
          lines.push(line);
          line = '';
        }
        line += letter;
      }
    }
    return line === '' ? lines : [...lines, line.trimEnd()];
  }
}

const segments = new Intl.Segmenter('en', { granularity: 'grapheme' });
const letters = (word: string) => Array.from(segments.segment(word), (each) => each.segment);
