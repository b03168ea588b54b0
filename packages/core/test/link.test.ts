import fc from 'fast-check';
import {
  addressOf,
  allowedProblem,
  keptLink,
  linkProblems,
  linkWithIds,
  placesOfLink,
  sheetFields,
  text,
  typedLink,
  withAllowedLinks,
} from '../src';
import type { Field } from '../src';
import { examples } from './support/examples';

/** Addresses made of a row's values: where they may lead, and that no value changes that. */

/** How browsers and servers read an address (WHATWG URL); core itself knows nothing of it. */
declare const URL: new (address: string) => {
  readonly origin: string;
  readonly pathname: string;
  readonly search: string;
  readonly hash: string;
};

const field = (id: string, name: string): Field => ({
  id,
  name,
  type: text,
  role: 'attribute',
  origin: { step: 't', column: name },
  forUseOnly: false,
});
const schema = { fields: [field('f1', 'batch'), field('f2', 'grade')] };
const ALLOWED = ['https://records.example/', 'mailto:'];
const fieldsWith = (link: string) => sheetFields(schema, [{ field: 'f1', link }], []);
const codes = (kept: string, allowed: readonly string[] = ALLOWED) =>
  linkProblems(kept, fieldsWith(kept), allowed).map((each) => each.code);

test('fields stand in it by their ids, and are typed and read by their names', () => {
  const kept = keptLink('https://records.example/{grade}/{ batch }?of={nobody}', fieldsWith('x'));
  expect(kept).toBe('https://records.example/{f2}/{f1}?of={nobody}');
  expect(placesOfLink(kept)).toEqual(['f2', 'f1', 'nobody']);
  expect(typedLink(kept, fieldsWith('x'))).toBe('https://records.example/{grade}/{batch}?of={nobody}');
  expect(linkWithIds('a/{f1}', (id) => `${id}-new`)).toBe('a/{f1-new}');
});

test.each([
  ['https://records.example/', undefined],
  ['http://localhost:8080/of/', undefined],
  ['https://records.example/find?batch=', undefined],
  ['mailto:', undefined],
  ['tel:', undefined],
  ['https://records.example', 'address-open'],
  ['https://', 'address-open'],
  ['https://records.example@evil.example/', 'address-open'],
  ['javascript:', 'address-open'],
  ['data:text/html,', 'address-open'],
  ['//records.example/', 'address-open'],
  ['https://records.example /', 'address-unsound'],
  ['https:\\\\records.example/', 'address-unsound'],
  ['https://records.example/../', 'address-unsound'],
  ['https://{host}/', 'address-unsound'],
])('a steward may allow %s: %s', (beginning, code) => {
  expect(allowedProblem(beginning)?.code).toBe(code);
});

test.each([
  ['https://records.example/{f1}', []],
  ['mailto:{f1}', []],
  ['https://records.example/about', []],
  ['https://{f1}/', ['link-not-allowed']],
  ['https://records.example.evil.example/{f1}', ['link-not-allowed']],
  ['javascript:alert({f1})', ['link-not-allowed']],
  ['{f1}', ['link-not-allowed']],
  ['https://records.example/{f9}', ['link-field-unknown']],
  ['https://records.example/{f1}/../{f2}', ['link-unsound']],
  ['https://records.example/a b', ['link-unsound']],
])('the link %s has %j wrong', (kept, expected) => {
  expect(codes(kept)).toEqual(expected);
});

test('a link nobody allowed is told, and followed by nobody', () => {
  expect(codes('https://records.example/{f1}', [])).toEqual(['link-not-allowed']);
  const of = (allowed: readonly string[]) => withAllowedLinks(fieldsWith('https://records.example/{f1}'), allowed).map((each) => each.link);
  expect(of(ALLOWED)).toEqual(['https://records.example/{f1}', undefined]);
  expect(of([])).toEqual([undefined, undefined]);
});

test('without one of its values a row leads nowhere; numbers are bare, everything else is encoded', () => {
  const of = (batch: unknown) => addressOf('https://records.example/{f1}?of={f1}', () => batch);
  expect(of('12430.50')).toBe('https://records.example/12430.50?of=12430.50');
  expect(of('a/b ü&?')).toBe('https://records.example/a%2Fb%20%C3%BC%26%3F?of=a%2Fb%20%C3%BC%26%3F');
  for (const missing of [null, undefined, { t: 'beginning', n: 900 }, { m: 'misfit' }, '.', '..']) expect(of(missing)).toBeUndefined();
});

test('whatever a value is, it leads to the place that was allowed and is read back from there', () => {
  const seen = { dots: 0, slashes: 0 };
  const value = fc.oneof(
    fc.string({ unit: 'binary' }),
    fc.constantFrom('..', '../..', '//evil.example', '\\evil', '@evil.example', '%2e%2e', '#', '?', 'https://evil.example/'),
  );
  fc.assert(
    fc.property(value, value, (first, second) => {
      const given: Readonly<Record<string, string>> = { f1: first, f2: second };
      const address = addressOf('https://records.example/of/{f1}/to/{f2}', (id) => given[id]);
      if (address === undefined) {
        seen.dots++;
        return;
      }
      const { origin, pathname, search, hash } = new URL(address);
      expect([origin, search, hash]).toEqual(['https://records.example', '', '']);
      const [, of = '', one = '', to = '', two = '', ...more] = pathname.split('/');
      const whole = (each: string) => each.replace(/[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g, '\uFFFD');
      expect([of, decodeURIComponent(one), to, decodeURIComponent(two), more]).toEqual(['of', whole(first), 'to', whole(second), []]);
      if (first.includes('/')) seen.slashes++;
    }),
    examples(400),
  );
  expect(seen.dots).toBeGreaterThan(5);
  expect(seen.slashes).toBeGreaterThan(20);
});
