import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Font } from 'fontkit';
import { create } from 'fontkit';
import { unwrapped } from '../src/engine/paper/unwrapped';

const folder = join(dirname(require.resolve('@fontsource/noto-sans/package.json')), 'files');
const wrapped = readdirSync(folder).filter((each) => /^noto-sans-(latin|cyrillic|devanagari)-(400|700)-(normal|italic)\.woff$/.test(each));

test('a font without its wrapping is the same font: its letters, how wide they are, and what stands between them', () => {
  expect(wrapped.length).toBeGreaterThan(6);
  for (const file of wrapped) {
    const bytes = readFileSync(join(folder, file));
    const [packed, plain] = [create(bytes) as Font, create(unwrapped(bytes)) as Font];
    expect([file, plain.postscriptName, plain.numGlyphs]).toEqual([file, packed.postscriptName, packed.numGlyphs]);
    expect(plain.characterSet).toEqual(packed.characterSet);
    const text = String.fromCodePoint(...packed.characterSet.slice(0, 200));
    const widths = (font: Font) => font.layout(text).positions.map((each) => each.xAdvance);
    expect(widths(plain)).toEqual(widths(packed));
  }
});

test('its directory says where each table lies, each at a multiple of four', () => {
  const font = unwrapped(readFileSync(join(folder, wrapped[0] ?? '')));
  const count = font.readUInt16BE(4);
  const tables = Array.from({ length: count }, (_each, index) => [8, 12].map((at) => font.readUInt32BE(12 + 16 * index + at)));
  expect(count).toBeGreaterThan(8);
  for (const [offset = 0, length = 0] of tables) expect([offset % 4, offset + length <= font.length]).toEqual([0, true]);
});
