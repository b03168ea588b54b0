import { loadModule, parseSync, scanSync } from 'libpg-query';
import { checkText, conversionOf, parametersIn, parseWith, statementsIn, tokensOf } from '../../src';
import { CORPUS } from '../support/corpus';

/** Statements as they are pasted, each in several dressings: they are read as one statement, with their parameters and nothing else. */

const parse = parseWith({ parse: parseSync, scan: scanSync });
beforeAll(() => loadModule());

const codes = (text: string) => checkText(text, parse).map(({ code }) => code);

test('there are many of them', () => {
  expect(CORPUS.length).toBeGreaterThan(300);
  expect(Math.max(...CORPUS.map(({ text }) => text.split('\n').length))).toBeGreaterThan(1_990);
});

test.each(CORPUS.map((each) => [each.of.text.slice(0, 120), each.dressed, each] as const))(
  '%s, %s',
  (_text, _dressed, { text, parameters, of }) => {
    const tokens = tokensOf(text);
    expect(tokens.map((each) => each.text).join('')).toBe(text);
    expect(statementsIn(tokens)).toHaveLength(1);
    expect(parametersIn(text).map(({ name }) => name)).toEqual(parameters);
    // Nothing in it is of another notation.
    expect(conversionOf(text)).toBeUndefined();
    // It reads, and only reads; a dressing is no finding and hides none.
    const found = codes(text);
    expect(found).not.toContain('text-broken');
    expect(found).not.toContain('text-not-reading');
    expect(found).toEqual(codes(of.text));
  },
);

test.each([
  ['select 1 as ñ /* жёлудь 😀 */ order by 1 nulls /* ж */ last frm x', 'frm'],
  ["select 'ж' /* 😀 */ where 1 not -- ж\n in (1) grup by 1", 'grup'],
  ['select 1 order by 1 nulls /* ж */ lst', 'nulls'],
])('%s is wrong at its place, whatever comments stand before it', (text, word) => {
  const [found] = checkText(text, parse);
  expect(found?.code).toBe('text-broken');
  expect(text.slice(found?.place.position?.from)).toMatch(new RegExp(`^${word}\\b`, 'u'));
});

test.each([
  ['@', (name: string) => `@${name}`],
  ['{}', (name: string) => `{${name}}`],
])('written with %s in the place of each parameter they come to the same', (_notation, other) => {
  let converted = 0;
  for (const { text, parameters } of CORPUS) {
    if (parameters.length === 0) continue;
    let foreign = text;
    for (const { from, to, name } of parametersIn(text).toReversed()) foreign = foreign.slice(0, from) + other(name) + foreign.slice(to);
    expect(conversionOf(foreign)?.text).toBe(text);
    converted++;
  }
  expect(converted).toBeGreaterThan(150);
});
