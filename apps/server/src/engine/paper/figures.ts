import type { Font, GlyphRun } from 'fontkit';

/** Digits and what stands among them. */
const FIGURE = /^[\d\s.,:+\-\u2212]+$/;

interface Letter {
  readonly glyph: GlyphRun['glyphs'][number];
  readonly advance: number;
}

/**
 * A font that sets figures letter by letter: they are set alike whatever their neighbours, so that nothing is looked up
 * in its tables for each of the many values of a column.
 */
export function settingFigures(font: Font): Font {
  const whole = font.layout.bind(font);
  const letters = new Map<string, Letter>();
  const letterOf = (text: string): Letter => {
    const known = letters.get(text);
    if (known) return known;
    const { glyphs, advanceWidth } = whole(text);
    const made = { glyph: glyphs[0] as Letter['glyph'], advance: advanceWidth };
    letters.set(text, made);
    return made;
  };
  const figures = (text: string): Pick<GlyphRun, 'glyphs' | 'positions' | 'advanceWidth'> => {
    const glyphs: GlyphRun['glyphs'] = [];
    const positions: GlyphRun['positions'] = [];
    let advanceWidth = 0;
    for (const letter of text) {
      const { glyph, advance } = letterOf(letter);
      glyphs.push(glyph);
      positions.push({ xAdvance: advance, yAdvance: 0, xOffset: 0, yOffset: 0 });
      advanceWidth += advance;
    }
    return { glyphs, positions, advanceWidth };
  };
  return Object.assign(font, {
    layout: (text: string, ...how: unknown[]) =>
      how.every((each) => each === undefined) && FIGURE.test(text)
        ? figures(text)
        : (whole as (text: string, ...how: unknown[]) => GlyphRun)(text, ...how),
  });
}
