import type { FieldId } from '../fields';
import type { Problem } from '../problem';
import { problem } from '../problem';
import type { SheetField } from './sheet';

/**
 * An address made of a row's values, such as `https://records.example/harvests/{id}`: where a value of the field leads to.
 * Fields stand in it by their ids, so that it leads there whatever they are called; it is typed and read with names. Values
 * are encoded as parts of an address (RFC 3986, 2.1), so that none of them can change where it leads; numbers are bare.
 */

export const LINK_MOST = 1_000;
/** So many beginnings a steward allows at most, and so long each is. */
export const ALLOWED_MOST = 100;
export const ALLOWED_LENGTH = 500;

const PLACE = /\{([^{}]+)\}/g;

type Named = Pick<SheetField, 'id' | 'name'>;

/** As it is kept, of what was typed: `{name}` of a field there is becomes its id. */
export const keptLink = (typed: string, fields: readonly Named[]): string =>
  typed.replace(PLACE, (written, name: string) => {
    const found = fields.find((each) => each.name === name.trim());
    return found ? `{${found.id}}` : written;
  });

/** As it is typed, of what is kept; what is no field any more stays as it is. */
export const typedLink = (kept: string, fields: readonly Named[]): string =>
  kept.replace(PLACE, (written, id: string) => {
    const found = fields.find((each) => each.id === id);
    return found ? `{${found.name}}` : written;
  });

/** The link with ids exchanged. */
export const linkWithIds = (kept: string, idOf: (id: string) => string): string =>
  kept.replace(PLACE, (_written, id: string) => `{${idOf(id)}}`);

/** What stands between braces, in its order: ids of fields, and what is none. */
export const placesOfLink = (kept: string): readonly FieldId[] => [...kept.matchAll(PLACE)].flatMap(([, id = '']) => id);

/** Spaces, controls, what some readers of addresses take for a slash, and steps up. */
// eslint-disable-next-line no-control-regex
const UNSOUND = /[\s\u0000-\u001F\u007F\\]|\/\.\.?(?=[/?#]|$)/u;

/**
 * What is wrong with the beginning of addresses a steward allows. The host has to be whole, so that nothing behind the
 * beginning can make another one of it; a user before it would hide it.
 */
export function allowedProblem(beginning: string): Problem | undefined {
  const expected = 'such as “https://records.example/” or “mailto:”';
  if (UNSOUND.test(beginning) || /[{}]/.test(beginning))
    return problem('address-unsound', `“${beginning}” has spaces, braces or dots an address begins with none of.`, {}, expected);
  if (/^(mailto|tel):$/.test(beginning)) return undefined;
  if (/^https?:\/\/[^/?#@]+\//i.test(beginning)) return undefined;
  return problem('address-open', `“${beginning}” leaves open where it leads to.`, {}, `a whole host and a slash behind it, ${expected}`);
}

/** What stands before the first value decides where a link leads to. */
function isAllowed(kept: string, allowed: readonly string[]): boolean {
  const open = kept.indexOf('{');
  const begins = open < 0 ? kept : kept.slice(0, open);
  return allowed.some((each) => allowedProblem(each) === undefined && begins.startsWith(each));
}

/** What is wrong with a field's link, for whoever writes it; `allowed` is left out where it is not known. */
export function linkProblems(kept: string, fields: readonly Named[], allowed?: readonly string[]): readonly Problem[] {
  const gone = placesOfLink(kept).filter((id) => !fields.some((each) => each.id === id));
  const unknown = [...new Set(gone)].map((each) =>
    problem('link-field-unknown', `There is no field ${each} for the link.`, {}, 'fields between braces, as {id}'),
  );
  if (UNSOUND.test(kept.replace(PLACE, '')))
    return [
      ...unknown,
      problem(
        'link-unsound',
        'The link has spaces or steps up, which an address has not.',
        {},
        'an address such as https://records.example/harvests/{id}',
      ),
    ];
  if (allowed === undefined || isAllowed(kept, allowed)) return unknown;
  const expected =
    allowed.length === 0
      ? 'a steward who allows addresses, on the page Links'
      : `one that begins with ${allowed.map((each) => `“${each}”`).join(' or ')}`;
  return [...unknown, problem('link-not-allowed', 'The link leads where no steward allowed links to lead.', {}, expected)];
}

/** Whether a link may be followed: it leads where a steward said, and its fields are there. */
export const mayFollow = (kept: string | undefined, fields: readonly Named[], allowed: readonly string[]): boolean =>
  kept !== undefined && linkProblems(kept, fields, allowed).length === 0;

/** Fields with the links that may be followed. */
export const withAllowedLinks = (fields: readonly SheetField[], allowed: readonly string[]): readonly SheetField[] =>
  fields.map((each) => (each.link === undefined || mayFollow(each.link, fields, allowed) ? each : { ...each, link: undefined }));

/** Halves of a letter that stand alone, which no address can hold. */
const HALF_LETTERS = /[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g;

/**
 * Where a row's value leads to; undefined where one of the values in it is missing, has a misfit or was cut, or would be a
 * step up in the address.
 */
export function addressOf(kept: string, valueOf: (field: FieldId) => unknown): string | undefined {
  let whole = true;
  const address = kept.replace(PLACE, (_written, id: string) => {
    const value = valueOf(id);
    if (typeof value !== 'string' || value === '.' || value === '..') whole = false;
    else return encodeURIComponent(value.replace(HALF_LETTERS, '\uFFFD'));
    return '';
  });
  return whole ? address : undefined;
}
