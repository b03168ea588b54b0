import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import fc from 'fast-check';
import type { Font, GlyphRun } from 'fontkit';
import { create } from 'fontkit';
import { withQuickLayout } from '../src/engine/paper/quick-layout';
import type { Measured } from '../src/engine/paper/pages';
import { pagesOf, slicesOf } from '../src/engine/paper/pages';
import { Type, widthOf } from '../src/engine/paper/type';

/** Lines cut into pages, columns into slices, and texts into lines: nothing is lost, and nothing is wider or higher than its place. */

const lines: fc.Arbitrary<readonly Measured[]> = fc
  .array(fc.record({ rows: fc.nat(12), height: fc.integer({ min: 1, max: 5 }), inner: fc.boolean(), totals: fc.boolean() }), {
    minLength: 1,
    maxLength: 12,
  })
  .map((groups) =>
    groups.flatMap(({ rows, height, inner, totals }): Measured[] => [
      { height: 1, kind: 'header', level: 1 },
      ...(inner ? [{ height: 1, kind: 'header' as const, level: 2 }] : []),
      ...Array.from({ length: rows }, (_each, at): Measured => ({ height: at % 4 === 0 ? height : 1, kind: 'row', level: 2 })),
      ...(inner ? [{ height: 1, kind: 'totals' as const, level: 2 }] : []),
      ...(totals ? [{ height: 1, kind: 'totals' as const, level: 1 }] : []),
    ]),
  );
const room = fc
  .record({ first: fc.integer({ min: 1, max: 20 }), others: fc.integer({ min: 2, max: 24 }) })
  .map(({ first, others }) => ({ first: Math.min(first, others), others }));

test('every line stands whole on the pages, once and in its place, and no page holds more than it can', () => {
  fc.assert(
    fc.property(lines, room, (given, { first, others }) => {
      const pages = pagesOf(given, { first, others });
      const parts = pages.flat();
      expect(parts.map((each) => each.line)).toEqual(parts.map((each) => each.line).toSorted((a, b) => a - b));
      given.forEach(({ height }, line) => {
        const own = parts.filter((each) => each.line === line);
        expect(own.reduce((sum, each) => sum + each.height, 0)).toBe(height);
        own.reduce((from, each) => (expect(each.from).toBe(from), from + each.height), 0);
      });
      pages.forEach((page, at) => {
        const height = page.reduce((sum, each) => sum + each.height, 0);
        expect(height).toBeLessThanOrEqual(at === 0 ? first : others);
        if (at > 0) expect(height).toBeGreaterThan(0);
      });
    }),
    { seed: 20261129, numRuns: 400 },
  );
});

test('a group that one page holds stands on one page, and no header alone at the foot of one', () => {
  let kept = 0;
  fc.assert(
    // Below a title, where a page begins with a group that no whole page is given to, it is cut there.
    fc.property(lines, fc.integer({ min: 8, max: 30 }), (given, others) => {
      const pages = pagesOf(given, { first: others, others });
      const pageOf = given.map((_each, line) => pages.flatMap((page, at) => (page.some((each) => each.line === line) ? [at] : [])));
      const innermost = Math.max(...given.flatMap(({ kind, level }) => (kind === 'header' ? [level] : [])));
      given.forEach(({ kind, level }, line) => {
        if (kind !== 'header') return;
        const next = given[line + 1];
        const within = next && (next.kind !== 'header' || next.level > level);
        if (within && 1 + next.height <= others) expect(pageOf[line + 1]).toContain(pageOf[line]?.[0]);
        if (level < innermost) return;
        const ends = given.findIndex((each, at) => at > line && (each.kind === 'header' || (each.kind === 'totals' && each.level < level)));
        const group = given.slice(line, ends < 0 ? given.length : ends);
        // The header of the group around it stands with it, where there is one.
        const around = given[line - 1]?.kind === 'header' ? 1 : 0;
        if (group.reduce((sum, each) => sum + each.height, around) > others) return;
        expect(new Set(pageOf.slice(line, line + group.length).flat()).size).toBe(1);
        kept++;
      });
    }),
    { seed: 20261129, numRuns: 400 },
  );
  expect(kept).toBeGreaterThan(500);
});

test('columns stand side by side as far as a page is wide, each once; one that is wider stands alone', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1, maxLength: 30 }), fc.nat(20), (widths, lead) => {
      const slices = slicesOf(widths, lead, 70);
      expect(slices.flat()).toEqual(widths.map((_each, at) => at));
      for (const slice of slices) {
        const width = lead + slice.reduce((sum, at) => sum + (widths[at] ?? 0), 0);
        expect(width <= 70 || slice.length === 1).toBe(true);
      }
    }),
    { seed: 20261129 },
  );
});

test('what stands below one head stays on one page where it fits on one, and nothing is lost by it', () => {
  const width = fc.integer({ min: 5, max: 30 });
  const groups = fc.array(fc.array(fc.array(width, { minLength: 1, maxLength: 3 }), { minLength: 1, maxLength: 4 }), {
    minLength: 1,
    maxLength: 6,
  });
  let split = 0;
  fc.assert(
    fc.property(groups, (outer) => {
      const widths = outer.flat(2);
      const spans = (sizes: readonly number[]) =>
        sizes.map((size, at) => {
          const from = sizes.slice(0, at).reduce((sum, each) => sum + each, 0);
          return { from, until: from + size };
        });
      const heads = [spans(outer.map((each) => each.flat().length)), spans(outer.flat().map((each) => each.length))];
      const slices = slicesOf(widths, 10, 70, heads);
      expect(slices.flat()).toEqual(widths.map((_each, at) => at));
      for (const slice of slices) expect(10 + slice.reduce((sum, at) => sum + (widths[at] ?? 0), 0) <= 70 || slice.length === 1).toBe(true);
      for (const { from, until } of heads.flat()) {
        const on = slices.filter((slice) => slice.some((at) => at >= from && at < until)).length;
        const fits = 10 + widths.slice(from, until).reduce((sum, each) => sum + each, 0) <= 70;
        if (fits) expect(on).toBe(1);
        else split++;
      }
    }),
    { seed: 20261130 },
  );
  expect(split).toBeGreaterThan(20);
});

describe('a text', () => {
  const type = new Type();
  const letters = fc.string({
    unit: fc.constantFrom('a', 'W', ' ', '1', 'ä', 'ж', 'λ', '\u0301', '中', '\n', '\u202f', '😀'),
    maxLength: 60,
  });

  test('is broken into lines that fit, and loses nothing but blanks at the breaks', () => {
    fc.assert(
      fc.property(letters, fc.integer({ min: 20, max: 200 }), (text, most) => {
        const broken = type.lines(text, 'plain', 8.5, most);
        const without = (part: string) => part.replaceAll(/\s/g, '');
        expect(without(broken.map((each) => each.text).join(''))).toBe(without(text));
        for (const line of broken) expect(widthOf(line, 8.5) <= most + 0.01 || Array.from(line.text.trim()).length <= 3).toBe(true);
      }),
      { seed: 20261129, numRuns: 300 },
    );
  });

  test('is written with letters of every script there is, and counts those no script has', () => {
    const own = new Type();
    expect(own.set('Fennick, Ängel', 'plain').runs).toHaveLength(1);
    expect(new Set(own.set('Ängel жёлудь λιμάνι', 'bold').runs.map((each) => each.file)).size).toBe(3);
    expect(own.set('Ängel жёлудь λιμάνι', 'plain').lacks).toEqual([]);
    expect(own.set('Ängel 中文', 'plain').lacks).toEqual(['中', '文']);
    // Another text is not told of them.
    expect(own.set('Ängel', 'plain').lacks).toEqual([]);
    // Blanks of another width are no letters.
    expect(own.set('1\u202f234', 'plain').runs.map((each) => each.text)).toEqual(['1\u00a0234']);
  });

  test('of figures is set letter by letter as the font would set it, others as it does', () => {
    const file = join(dirname(require.resolve('@fontsource/noto-sans/package.json')), 'files/noto-sans-latin-400-normal.woff');
    const [plain, quick] = [create(readFileSync(file)) as Font, withQuickLayout(create(readFileSync(file)) as Font)];
    const told = ({ glyphs, positions, advanceWidth }: GlyphRun) => ({
      glyphs: glyphs.map((each) => each.id),
      advances: positions.map(({ xAdvance, xOffset, yOffset }) => [xAdvance, xOffset, yOffset]),
      advanceWidth,
    });
    const figures = fc.string({ unit: fc.constantFrom(...'0123456789.,:+- \u00a0\u2212a'), minLength: 1, maxLength: 20 });
    fc.assert(
      fc.property(figures, (text) => {
        // The second time it is remembered.
        for (let times = 0; times < 2; times++) expect(told(quick.layout(text))).toEqual(told(plain.layout(text)));
      }),
      { seed: 20261130, numRuns: 500 },
    );
  });
});
