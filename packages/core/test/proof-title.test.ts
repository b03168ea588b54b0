import fc from 'fast-check';
import type { Definition, Parameter } from '../src';
import {
  LAYOUT_WORDS,
  applyEdit,
  emptyDefinition,
  invertEdit,
  keptWords,
  shownTitle,
  typedWords,
  unknownInWords,
  withFreshIds,
  withoutValues,
} from '../src';

/** A title by hand: typed with names, kept with ids, read with values. */

const parameter = (id: string, name: string, startsAs: readonly string[] = []): Parameter => ({
  id,
  name,
  type: 'text',
  takes: 'several',
  leftBlank: 'condition is off',
  startsAs,
  hint: '',
});
const parameters = [parameter('p1', 'season', ['2025']), parameter('p2', 'region')];
const definition: Definition = { ...emptyDefinition('Yield'), parameters };

test('what is typed by name is kept by id, and read with the values in use', () => {
  const kept = keptWords('Yield of :season in :region: 10:30', parameters);
  expect(kept).toBe('Yield of :{p1} in :{p2}: 10:30');
  expect(shownTitle(kept, definition, { p2: ['Fennick', 'Saltmarsh'] })).toBe('Yield of 2025 in Fennick, Saltmarsh: 10:30');
  expect(typedWords(kept, parameters)).toBe('Yield of :season in :region: 10:30');
});

test('a parameter that is called otherwise stays the same one, and one that is gone is seen to be', () => {
  const kept = keptWords('Yield of :season', parameters);
  const renamed = parameters.map((each) => (each.id === 'p1' ? { ...each, name: 'year' } : each));
  expect(typedWords(kept, renamed)).toBe('Yield of :year');
  expect(typedWords(kept, [])).toBe('Yield of :gone');
  expect(shownTitle(kept, emptyDefinition(''), {})).toBe('Yield of …');
});

test('names of no parameter are told, each once', () => {
  const kept = keptWords('of :seeson and :season, :seeson again', parameters);
  expect(unknownInWords(kept)).toEqual(['seeson']);
});

test('what is typed comes back as it was, whatever it holds', () => {
  const word = fc.oneof(fc.constantFrom(':season', ':region', ':', '{', '}', ' of ', ':x', '::'), fc.string({ maxLength: 4 }));
  let asked = 0;
  fc.assert(
    fc.property(fc.array(word, { maxLength: 8 }), (words) => {
      const typed = words.join('');
      // Ids are kept in braces, which nobody types behind a colon.
      fc.pre(!/:\{[^{}]+\}/.test(typed));
      if (/:season(?![\p{L}\p{N}_])/u.test(typed)) asked++;
      expect(typedWords(keptWords(typed, parameters), parameters)).toBe(typed);
    }),
  );
  expect(asked).toBeGreaterThan(10);
});

test.each(LAYOUT_WORDS)(
  'a %s is set and taken back like anything of the proof, goes along into a copy, and is hidden from who lacks the source',
  (property) => {
    const edit = { kind: 'set proof', property, from: undefined, to: 'Yield of :{p1}' } as const;
    const titled = applyEdit(definition, edit);
    expect(titled.proof[property]).toBe('Yield of :{p1}');
    expect(applyEdit(titled, invertEdit(edit))).toEqual(definition);
    let minted = 0;
    const copy = withFreshIds(titled, () => `fresh ${++minted}`);
    expect(shownTitle(copy.proof[property] ?? '', copy, {})).toBe('Yield of 2025');
    expect(copy.proof[property]).not.toContain('p1');
    expect(withoutValues(titled).proof).not.toHaveProperty(property);
  },
);
