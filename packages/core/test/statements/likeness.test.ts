import { likeness, sketchOf } from '../../src';

const alike = (a: string, b: string) => likeness(sketchOf(a), sketchOf(b));
const text = 'select code, name from coop.apiaries where shared and code like :part order by name';

describe('how alike two texts are', () => {
  test('layout, comments and case do not count', () => {
    expect(
      alike(text, '-- the shared ones\nSELECT code,\n  name FROM coop.apiaries /* all */ WHERE shared AND code LIKE :part\nORDER BY name'),
    ).toBe(1);
  });

  test('case of names in quotes and of texts does', () => {
    expect(alike(`select "Code" from t where x = 'A'`, `select "code" from t where x = 'a'`)).toBeLessThan(1);
  });

  test('one word more leaves most of it alike, another text nothing', () => {
    const more = text.replace('shared and', 'shared and member_id = 7 and');
    expect(alike(text, more)).toBeCloseTo(14 / 20);
    expect(alike(text, more)).toBe(alike(more, text));
    expect(alike(text, 'with a as (select 1) table a')).toBe(0);
  });

  test('it is the share of runs that stand in both, exactly while they are few', () => {
    expect(alike('a b c d', 'a b c e')).toBeCloseTo(1 / 3);
    expect(alike('', '')).toBe(0);
    expect(alike('a', 'a')).toBe(1);
  });

  test('a long text is told by a few hundred numbers, and about rightly', () => {
    const words = Array.from({ length: 3_000 }, (_each, at) => `field_${at}`);
    const long = words.join(', ');
    const half = [...words.slice(0, 1_500), ...words.slice(1_500).map((each) => `${each}x`)].join(', ');
    expect(sketchOf(long).length).toBeLessThanOrEqual(256);
    expect(alike(long, long)).toBe(1);
    expect(alike(long, half)).toBeGreaterThan(0.23);
    expect(alike(long, half)).toBeLessThan(0.43);
  });
});
