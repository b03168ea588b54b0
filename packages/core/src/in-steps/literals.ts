import type { FieldType } from '../fields';
import { isNumber } from '../fields';
import type { SyntaxTree } from '../statements';
import { membersOf, namesOf } from '../statements';
import { readValue } from '../values';
import type { Said } from './said';
import { HOLDS, one, quoted } from './said';
import { unsaid } from './unsaid';

const member = (tree: SyntaxTree | undefined, name: string): SyntaxTree | undefined =>
  typeof tree === 'object' && tree !== null && !Array.isArray(tree) ? (tree as Readonly<Record<string, SyntaxTree>>)[name] : undefined;

/** A constant as text, where it is one in quotes. */
export function stringOf(tree: SyntaxTree | undefined): string | undefined {
  const text = member(membersOf(tree, 'A_Const')?.sval, 'sval');
  // The tree leaves empty texts out.
  return membersOf(tree, 'A_Const')?.sval === undefined ? undefined : typeof text === 'string' ? text : '';
}

/** A whole number written in the text; zero is left out of the tree. */
export function wholeOf(tree: SyntaxTree | undefined): number | undefined {
  const constant = membersOf(tree, 'A_Const');
  if (constant?.ival === undefined) return undefined;
  const value = member(constant.ival, 'ival');
  return typeof value === 'number' ? value : 0;
}

/** A constant; one in quotes is of the type it stands beside, as its source reads it. */
export function literal(tree: SyntaxTree, beside: FieldType | undefined): Said {
  const constant = membersOf(tree, 'A_Const') ?? {};
  if (constant.isnull === true) return one('null');
  if (constant.boolval !== undefined) return one(member(constant.boolval, 'boolval') === true ? 'true' : 'false');
  const whole = wholeOf(tree);
  if (whole !== undefined) return number(String(whole));
  const decimal = member(constant.fval, 'fval');
  if (typeof decimal === 'string')
    return /[eE]/.test(decimal)
      ? unsaid(`${decimal} is a floating number in expressions, and a decimal in its source.`, constant.location)
      : number(decimal);
  const text = stringOf(tree);
  return text === undefined
    ? unsaid('A constant of this kind has no counterpart.', constant.location)
    : typed(text, beside, constant.location);
}

const number = (text: string): Said => ({
  text: text.startsWith('.') ? `0${text}` : text.endsWith('.') ? text.slice(0, -1) : text,
  holds: text.startsWith('-') ? HOLDS.sign : HOLDS.one,
});

/** What stands in quotes, as a value of a type. */
export function typed(text: string, type: FieldType | undefined, location: SyntaxTree | undefined): Said {
  if (type?.kind === 'date' || type?.kind === 'datetime' || type?.kind === 'instant' || type?.kind === 'time') {
    const wanted: FieldType = type.kind !== 'time' && readValue({ kind: 'date' }, text).ok ? { kind: 'date' } : type;
    const word = wanted.kind === 'date' || wanted.kind === 'time' ? wanted.kind : 'timestamp';
    return readValue(wanted, text).ok && /^[\d]/.test(text)
      ? one(`${word} ${quoted(text.trim())}`)
      : unsaid(`“${text}” is no ${word} that reads the same here.`, location);
  }
  if (type && isNumber(type))
    return /^\s*[+-]?\d+(\.\d+)?\s*$/.test(text)
      ? number(text.trim().replace(/^\+/, ''))
      : unsaid(`“${text}” is no number here.`, location);
  if (type?.kind === 'yesno') {
    const yes = ['t', 'true', 'y', 'yes', 'on', '1'].includes(text.trim().toLowerCase());
    const no = ['f', 'false', 'n', 'no', 'off', '0'].includes(text.trim().toLowerCase());
    return yes || no ? one(String(yes)) : unsaid(`“${text}” is neither yes nor no.`, location);
  }
  return one(quoted(text));
}

const UNITS: Readonly<Record<string, string>> = {
  year: 'year',
  years: 'year',
  mon: 'month',
  mons: 'month',
  month: 'month',
  months: 'month',
  week: 'week',
  weeks: 'week',
  day: 'day',
  days: 'day',
  hour: 'hour',
  hours: 'hour',
  minute: 'minute',
  minutes: 'minute',
  min: 'minute',
  mins: 'minute',
  second: 'second',
  seconds: 'second',
  sec: 'second',
  secs: 'second',
};

/** The lengths of time an interval is made of, `interval '1 month 3 days'`; undefined where the tree is no interval. */
export function intervalOf(tree: SyntaxTree | undefined): readonly string[] | undefined {
  const cast = membersOf(tree, 'TypeCast');
  const type = membersOf({ TypeName: cast?.typeName ?? null }, 'TypeName');
  if (!cast || namesOf(type?.names).at(-1) !== 'interval') return undefined;
  const text = stringOf(cast.arg);
  if (text === undefined || type?.typmods !== undefined) return unsaid('This length of time is not written in units.', cast.location);
  const parts = [...text.matchAll(/\s*([+-]?\d{1,6})\s*([a-z]+)\s*/gi)];
  if (parts.length === 0 || parts.map(([all]) => all).join('') !== text)
    return unsaid(`The length of time “${text}” is not written in units.`, cast.location);
  return parts.map(([, amount = '', unit = '']) => {
    const own = UNITS[unit.toLowerCase()];
    return own ? `interval '${amount}' ${own}` : unsaid(`There is no unit ${unit} here.`, cast.location);
  });
}
