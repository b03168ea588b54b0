import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Font } from 'fontkit';
import { create } from 'fontkit';
import { unwrapped } from './unwrapped';

/** Letters come from one family, cut into files by script; a text takes each letter from the first file that has it. */
const SCRIPTS = ['latin', 'latin-ext', 'greek', 'greek-ext', 'cyrillic', 'cyrillic-ext', 'vietnamese', 'devanagari'] as const;
const WEIGHTS = { plain: '400-normal', bold: '700-normal', slanted: '400-italic' } as const;
export type Weight = keyof typeof WEIGHTS;

const files = join(dirname(require.resolve('@fontsource/noto-sans/package.json')), 'files');
/** Widths and cuts are asked again and again, for values repeat. */
const KNOWN_MOST = 50_000;

/** Blanks of other widths, some of which the family has not: between digits any of them will do. */
const SPACE = /[\u2000-\u200A\u202F\u205F\u3000\t]/;
const FIGURE = /^[\d\s.,:+\-\u2212]*$/;
/** Widths are sums of fractions; what is wider by less than this is as wide. */
const NEARLY = 0.01;

export interface Run {
  /** A name of its own for the font, among those of all weights. */
  readonly file: string;
  readonly font: Font;
  readonly text: string;
  /** Letters of it no file has; they stand as boxes. */
  readonly lacks: readonly string[];
}

/** Letters of one weight: how wide texts are, and which files they are written with. */
class Letters {
  private readonly fonts: (Font | undefined)[] = [];
  private readonly byPoint = new Map<number, number>();
  private readonly widths = new Map<string, number>();
  private readonly advances = new Map<string, number>();
  private readonly cut = new Map<string, readonly Run[]>();
  private readonly names = SCRIPTS.map((script) => `noto-sans-${script}-${WEIGHTS[this.weight]}.woff`);

  constructor(private readonly weight: Weight) {}

  /** In thousandths of the size. */
  width(text: string): number {
    return remembered(this.widths, text, () =>
      FIGURE.test(text)
        ? Array.from(text).reduce((sum, letter) => sum + this.advance(letter), 0)
        : this.runs(text).reduce((sum, { font, text: part }) => sum + (1_000 * font.layout(part).advanceWidth) / font.unitsPerEm, 0),
    );
  }

  /** Of a letter by itself: digits and what stands among them are set apart alike whatever their neighbours. */
  private advance(letter: string): number {
    return remembered(this.advances, letter, () => {
      const [run] = this.runs(letter);
      const font = run?.font ?? this.font(0);
      return (1_000 * font.layout(run?.text ?? letter).advanceWidth) / font.unitsPerEm;
    });
  }

  runs(text: string): readonly Run[] {
    return remembered(this.cut, text, () =>
      this.byScript(text).map(({ at, ...run }) => ({ file: this.names[at] ?? '', font: this.font(at), ...run })),
    );
  }

  private byScript(text: string): readonly ({ readonly at: number } & Pick<Run, 'text' | 'lacks'>)[] {
    const runs: { at: number; text: string; lacks: string[] }[] = [];
    for (const written of text) {
      const letter = SPACE.test(written) ? '\u00A0' : written;
      const at = this.scriptOf(letter.codePointAt(0) ?? 0);
      const lacks = at < 0 ? [letter] : [];
      const last = runs.at(-1);
      if (last && (last.at === at || letter === ' ')) {
        last.text += letter;
        last.lacks.push(...lacks);
      } else runs.push({ at: Math.max(at, 0), text: letter, lacks });
    }
    return runs;
  }

  private font(at: number): Font {
    return (this.fonts[at] ??= create(unwrapped(readFileSync(join(files, this.names[at] ?? '')))) as Font);
  }

  private scriptOf(point: number): number {
    const known = this.byPoint.get(point);
    if (known !== undefined) return known;
    const at = SCRIPTS.findIndex((_script, index) => this.font(index).hasGlyphForCodePoint(point));
    this.byPoint.set(point, at);
    return at;
  }
}

function remembered<T>(known: Map<string, T>, text: string, work: () => T): T {
  const found = known.get(text);
  if (found !== undefined) return found;
  const made = work();
  if (known.size >= KNOWN_MOST) known.clear();
  known.set(text, made);
  return made;
}

/** The letters a paper is written in. */
export class Type {
  private readonly weights = { plain: new Letters('plain'), bold: new Letters('bold'), slanted: new Letters('slanted') };

  /** The letters of a text no file has. */
  lacking(text: string, weight: Weight): readonly string[] {
    return this.runs(text, weight).flatMap(({ lacks }) => lacks);
  }

  /** How wide a text is, in points, at a size in points. */
  width(text: string, weight: Weight, size: number): number {
    return (this.weights[weight].width(text) * size) / 1_000;
  }

  runs(text: string, weight: Weight): readonly Run[] {
    return this.weights[weight].runs(text);
  }

  /** A text in lines that are so wide at most: broken at blanks, within a word only where the word is wider. Nothing is lost but blanks at breaks. */
  lines(text: string, weight: Weight, size: number, most: number): readonly string[] {
    if (!/[\r\n]/.test(text)) return this.broken(text, weight, size, most);
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
