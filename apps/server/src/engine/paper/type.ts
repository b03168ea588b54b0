import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Font } from 'fontkit';
import { create } from 'fontkit';
import { withQuickLayout } from './quick-layout';
import { unwrapped } from './unwrapped';

/** Letters come from one family, cut into files by script; a text takes each letter from the first file that has it. */
const SCRIPTS = ['latin', 'latin-ext', 'greek', 'greek-ext', 'cyrillic', 'cyrillic-ext', 'vietnamese', 'devanagari'] as const;
const WEIGHTS = { plain: '400-normal', bold: '700-normal', slanted: '400-italic' } as const;
export type Weight = keyof typeof WEIGHTS;

const files = join(dirname(require.resolve('@fontsource/noto-sans/package.json')), 'files');
/** Widths and cuts are asked again and again, for values repeat. */
const KNOWN_MOST = 10_000;

/** Blanks of other widths, some of which the family has not: between digits any of them will do. */
const SPACE = /[\u2000-\u200A\u202F\u205F\u3000\t]/;
const SPACES = new RegExp(SPACE, 'g');
/** Widths are sums of fractions; what is wider by less than this is as wide. */
const NEARLY = 0.01;

export interface Run {
  /** A name of its own for the font, among those of all weights. */
  readonly file: string;
  readonly font: Font;
  readonly text: string;
  /** In thousandths of the size. */
  readonly width: number;
}

/** A text without line breaks as it is set: what is written, and how wide it is. */
export interface SetText {
  readonly text: string;
  readonly weight: Weight;
  readonly runs: readonly Run[];
  /** In thousandths of the size. */
  readonly width: number;
  /** Letters of it no file has; they stand as boxes. */
  readonly lacks: readonly string[];
}

/** How wide it is, in points, at a size in points. */
export const widthOf = ({ width }: SetText, size: number): number => (width * size) / 1_000;

/** Letters of one weight: which files texts are written with. */
class Letters {
  private readonly fonts: (Font | undefined)[] = [];
  private readonly byPoint = new Map<number, number>();
  private readonly known = new Map<string, SetText>();
  private readonly names = SCRIPTS.map((script) => `noto-sans-${script}-${WEIGHTS[this.weight]}.woff`);

  constructor(private readonly weight: Weight) {}

  set(text: string): SetText {
    const known = this.known.get(text);
    if (known) return known;
    const lacks: string[] = [];
    const runs = this.byScript(text, lacks);
    const made = { text, weight: this.weight, runs, width: runs.reduce((sum, { width }) => sum + width, 0), lacks };
    if (this.known.size >= KNOWN_MOST) this.known.clear();
    this.known.set(text, made);
    return made;
  }

  private byScript(text: string, lacks: string[]): readonly Run[] {
    const runs: Run[] = [];
    let from = 0;
    let of = -1;
    let at = 0;
    const written = SPACE.test(text) ? text.replace(SPACES, '\u00A0') : text;
    const end = () => {
      if (at > from) runs.push(this.run(Math.max(of, 0), written.slice(from, at)));
      from = at;
    };
    for (const letter of written) {
      const script = this.scriptOf(letter.codePointAt(0) ?? 0);
      if (script < 0) lacks.push(letter);
      if (script !== of && (letter !== ' ' || at === 0)) {
        end();
        of = script;
      }
      at += letter.length;
    }
    end();
    return runs;
  }

  private run(at: number, text: string): Run {
    const font = this.font(at);
    return { file: this.names[at] ?? '', font, text, width: (1_000 * font.layout(text).advanceWidth) / font.unitsPerEm };
  }

  private font(at: number): Font {
    return (this.fonts[at] ??= withQuickLayout(create(unwrapped(readFileSync(join(files, this.names[at] ?? '')))) as Font));
  }

  private scriptOf(point: number): number {
    const known = this.byPoint.get(point);
    if (known !== undefined) return known;
    const at = SCRIPTS.findIndex((_script, index) => this.font(index).hasGlyphForCodePoint(point));
    this.byPoint.set(point, at);
    return at;
  }
}

/** The letters a paper is written in. */
export class Type {
  private readonly weights = { plain: new Letters('plain'), bold: new Letters('bold'), slanted: new Letters('slanted') };

  /** A text without line breaks. */
  set(text: string, weight: Weight): SetText {
    return this.weights[weight].set(text);
  }

  /** Its lines as they are given, however wide; none of a text without letters. */
  given(text: string, weight: Weight): readonly SetText[] {
    if (text === '') return [];
    return /[\r\n]/.test(text) ? text.split(/\r\n|\r|\n/).map((part) => this.set(part, weight)) : [this.set(text, weight)];
  }

  /** A text in lines that are so wide at most. */
  lines(text: string, weight: Weight, size: number, most: number): readonly SetText[] {
    return this.fitted(this.given(text, weight), size, most);
  }

  /** Lines broken at blanks, within a word only where the word is wider. Nothing is lost but blanks at breaks. */
  fitted(given: readonly SetText[], size: number, most: number): readonly SetText[] {
    if (given.every((each) => widthOf(each, size) <= most + NEARLY)) return given;
    return given.flatMap((each) => this.broken(each, size, most));
  }

  private broken({ text, weight }: SetText, size: number, most: number): readonly SetText[] {
    const fits = (part: string) => widthOf(this.set(part, weight), size) <= most + NEARLY;
    if (fits(text)) return [this.set(text, weight)];
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
    return (line === '' ? lines : [...lines, line.trimEnd()]).map((each) => this.set(each, weight));
  }

  /** Cut to a width, with an ellipsis that says so. */
  shortened(set: SetText, size: number, most: number): SetText {
    if (widthOf(set, size) <= most) return set;
    const kept = Array.from(set.text);
    const cut = () => this.set(`${kept.join('')}…`, set.weight);
    while (kept.length > 1 && widthOf(cut(), size) > most) kept.pop();
    return cut();
  }
}

const segments = new Intl.Segmenter('en', { granularity: 'grapheme' });
const letters = (word: string) => Array.from(segments.segment(word), (each) => each.segment);
