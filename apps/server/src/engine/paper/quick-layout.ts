import type { Font, GlyphRun } from 'fontkit';

/** What is written of a text: its letters' forms, where they stand, and how wide they are together. */
type Written = Pick<GlyphRun, 'glyphs' | 'positions' | 'advanceWidth'>;

/** Texts that are remembered, for each is asked for several times in a row, and heads and many values repeat. */
const KNOWN_MOST = 5_000;
/** Fonts are drawn in so many units, which is how positions are written: nothing is changed in them by who writes. */
const UNITS = 1_000;

/** Digits and what stands among them. */
const FIGURE = /^[\d\s.,:+\-\u2212]+$/;

/** Where a letter stands; its members are none that whoever writes with it goes through one by one. */
class Position {
  readonly #advance: number;
  constructor(advance: number) {
    this.#advance = advance;
  }
  get xAdvance() {
    return this.#advance;
  }
  get yAdvance() {
    return 0;
  }
  get xOffset() {
    return 0;
  }
  get yOffset() {
    return 0;
  }
}

interface Letter {
  readonly glyph: GlyphRun['glyphs'][number];
  readonly position: Position;
}

/**
 * A font that remembers some texts, and sets figures letter by letter: they are set alike whatever their neighbours, so
 * that nothing is looked up in its tables for each of the many values of a column. One of other units stays as it is.
 */
export function withQuickLayout(font: Font): Font {
  if (font.unitsPerEm !== UNITS) return font;
  const whole = font.layout.bind(font) as (text: string, ...how: unknown[]) => Written;
  const letters = new Map<string, Letter>();
  const known = new Map<string, Written>();
  const letterOf = (text: string): Letter => {
    const found = letters.get(text);
    if (found) return found;
    const { glyphs, advanceWidth } = whole(text);
    const made = { glyph: glyphs[0] as Letter['glyph'], position: new Position(advanceWidth) };
    letters.set(text, made);
    return made;
  };
  const figures = (text: string): Written => {
    const glyphs: GlyphRun['glyphs'] = [];
    const positions: GlyphRun['positions'] = [];
    let advanceWidth = 0;
    for (const letter of text) {
      const { glyph, position } = letterOf(letter);
      glyphs.push(glyph);
      positions.push(position);
      advanceWidth += position.xAdvance;
    }
    return { glyphs, positions, advanceWidth };
  };
  return Object.assign(font, {
    layout: (text: string, features?: unknown, ...how: unknown[]): Written => {
      if (features !== undefined || how.length > 0) return whole(text, features, ...how);
      const found = known.get(text);
      if (found) return found;
      const made = FIGURE.test(text) ? figures(text) : whole(text);
      if (known.size >= KNOWN_MOST) known.clear();
      known.set(text, made);
      return made;
    },
  }) as Font;
}
