import { isDay, isNumber } from '../fields';
import type { SyntaxTree } from '../statements';
import { listOf, namesOf } from '../statements';
import type { Members } from './speech';
import { saidPower } from './arithmetic';
import { asText, say, sayAll } from './speech';
import { stringOf, wholeOf } from './literals';
import type { Meaning } from './meaning';
import { typeOf } from './meaning';
import { datePattern } from './patterns';
import type { Said } from './said';
import { called, HOLDS, one, operand, quoted, within } from './said';
import { unsaid } from './unsaid';
import { saidWindow } from './windows';

/** What a function of a text is called with. */
interface Call {
  readonly name: string;
  readonly args: readonly SyntaxTree[];
  readonly location: SyntaxTree | undefined;
  readonly meaning: Meaning;
}

/** Says a function, or undefined where it is called with what has no counterpart. */
type Saying = (call: Call) => Said | undefined;

/** Functions that tell one value of many rows, which stand in a summary. */
export const AGGREGATES: readonly string[] =
  'array_agg avg bit_and bit_or bool_and bool_or corr count covar_pop covar_samp every json_agg json_object_agg jsonb_agg jsonb_object_agg max min mode percentile_cont percentile_disc regr_slope stddev stddev_pop stddev_samp string_agg sum var_pop var_samp variance xmlagg any_value'.split(
    ' ',
  );

/** A function of the text by one of ours, or by an expression of the same meaning. */
export function saidCall(of: Members, meaning: Meaning): Said {
  const names = namesOf(of.funcname);
  const name = names.at(-1) ?? '';
  const foreign = names.length > 1 && names[0] !== 'pg_catalog';
  const odd = ['agg_filter', 'agg_order', 'agg_distinct', 'agg_within_group', 'func_variadic'].some((each) => of[each] !== undefined);
  if (foreign) return unsaid(`The function ${names.join('.')} has no counterpart.`, of.location);
  if (of.over !== undefined)
    return odd ? unsaid('A figure over other rows of this kind has no counterpart.', of.location) : saidWindow(name, of, meaning);
  if (AGGREGATES.includes(name)) return unsaid(`${name} of many rows cannot stand here.`, of.location);
  const saying = odd || !Object.hasOwn(CALLS, name) ? undefined : CALLS[name];
  return (
    saying?.({ name, args: listOf(of.args), location: of.location, meaning }) ??
    unsaid(saying ? `${name} called like this has no counterpart.` : `The function ${name} has no counterpart.`, of.location)
  );
}

/** Under the same name, or another, with as many operands as may be. */
const as =
  (name: string, least: number, most = least): Saying =>
  ({ args, meaning }) =>
    args.length >= least && args.length <= most ? called(name, ...sayAll(args, meaning)) : undefined;

/** Of a number, which its source tells as a number of the same kind. */
const ofNumber =
  (name: string): Saying =>
  ({ args, meaning }) => {
    const [value] = args.length === 1 ? sayAll(args, meaning) : [];
    const type = value && typeOf(value, meaning);
    return value && type && isNumber(type) ? called(name, value) : undefined;
  };

const trimmed =
  (side: 'both' | 'leading' | 'trailing'): Saying =>
  ({ args: [of, chars], meaning }) => {
    const value = say(of, meaning);
    if (chars === undefined) return one(side === 'both' ? `trim(${value.text})` : `trim(${side} from ${value.text})`);
    // Several characters are a set there, and here one is taken off.
    return stringOf(chars)?.length === 1 ? one(`trim(${side} ${quoted(stringOf(chars) ?? '')} from ${value.text})`) : undefined;
  };

const position =
  (of: number, part: number): Saying =>
  ({ args, meaning }) =>
    args.length === 2 ? one(`position(${operand(say(args[part], meaning))} in ${operand(say(args[of], meaning))})`) : undefined;

const substring: Saying = ({ args: [of, from, length], meaning }) => {
  if (from === undefined || wholeOf(from) === undefined) {
    const type = from === undefined ? undefined : typeOf(say(from, meaning), meaning);
    if (type?.kind !== 'whole') return undefined;
  }
  const long = length === undefined ? '' : ` for ${operand(say(length, meaning))}`;
  return one(`substring(${operand(say(of, meaning))} from ${operand(say(from, meaning))}${long})`);
};

const firstLetters: Saying = ({ args: [of, count], meaning }) => {
  const letters = wholeOf(count);
  // A negative count leaves so many out at the end.
  return letters !== undefined && letters >= 0 ? one(`substring(${operand(say(of, meaning))} from 1 for ${letters})`) : undefined;
};

const PARTS: Readonly<Record<string, string>> = {
  year: 'year',
  quarter: 'quarter',
  month: 'month',
  week: 'week',
  day: 'day',
  isodow: 'weekday',
  doy: 'yearday',
  hour: 'hour',
  minute: 'minute',
};

/** Years that begin in January alone have quarters as the source counts them. */
const asCounted = ({ meaning }: Call, unit: string): boolean => {
  const { firstDayOfWeek = 1, firstMonthOfYear = 1 } = meaning.scope.calendar ?? {};
  return unit === 'week' ? firstDayOfWeek === 1 : !['quarter', 'year'].includes(unit) || firstMonthOfYear === 1;
};

const extract: Saying = (call) => {
  const [unit, of] = call.args;
  const word = (stringOf(unit) ?? '').toLowerCase();
  const value = say(of, call.meaning);
  const type = typeOf(value, call.meaning);
  const own = PARTS[word];
  if (own === undefined || !type || !isDay(type) || (own === 'quarter' && !asCounted(call, own))) return undefined;
  return one(`extract(${own} from ${value.text})`);
};

const begun: Saying = (call) => {
  const [unit, of] = call.args;
  const word = (stringOf(unit) ?? '').toLowerCase();
  const value = say(of, call.meaning);
  const type = typeOf(value, call.meaning);
  if (!['day', 'week', 'month', 'quarter', 'year'].includes(word) || call.args.length !== 2 || !asCounted(call, word)) return undefined;
  return type && isDay(type) ? called(`start_of_${word}`, value) : undefined;
};

/** Texts put together, nulls left out. */
const joinedTexts =
  (separator: boolean): Saying =>
  ({ args, meaning, location }) => {
    const [first, rest] = separator ? [args[0], args.slice(1)] : [undefined, args];
    const by = separator ? say(first, meaning) : one(quoted(''));
    const texts = rest.map((each) => asText(say(each, meaning), meaning, location));
    return texts.length > 0 ? called('join_text', by, ...texts) : undefined;
  };

const written: Saying = ({ args: [of, pattern], meaning, location }) => {
  const value = say(of, meaning);
  const type = typeOf(value, meaning);
  const text = stringOf(pattern);
  if (!type || text === undefined || !isDay(type)) return unsaid('Only days are written by a pattern here.', location);
  const own = datePattern(text);
  return own === undefined ? unsaid(`The pattern “${text}” has no counterpart.`, location) : called('format_date', value, one(quoted(own)));
};

const readDay: Saying = ({ args: [of, pattern], meaning, location }) => {
  const text = stringOf(pattern);
  const own = text === undefined ? undefined : datePattern(text);
  return own === undefined
    ? unsaid('This pattern has no counterpart.', location)
    : called('parse_date', say(of, meaning), one(quoted(own)));
};

const rounded: Saying = ({ args, meaning }) => {
  const [value, places] = sayAll(args, meaning);
  const type = value && typeOf(value, meaning);
  // A floating number is rounded to the even one there.
  if (!value || !type || !isNumber(type) || type.kind === 'float') return undefined;
  return places ? called('round', value, places) : called('round', value);
};

const ofDate: Saying = ({ args, meaning }) => (args.length === 3 ? called('date_of', ...sayAll(args, meaning)) : undefined);

const overlaid: Saying = ({ args: [of, by, from, length], meaning }) =>
  from === undefined
    ? undefined
    : one(
        `overlay(${operand(say(of, meaning))} placing ${operand(say(by, meaning))} from ${operand(say(from, meaning))}${
          length === undefined ? '' : ` for ${operand(say(length, meaning))}`
        })`,
      );

const divided: Saying = ({ args, meaning }) => {
  const [a, b] = sayAll(args, meaning);
  return a && b ? one(`cast((${within(HOLDS.sum, a)} - ${called('mod', a, b).text}) / ${within(HOLDS.sign, b)} as integer)`) : undefined;
};

const raised: Saying = ({ args: [base = null, exponent = null], meaning, location }) => saidPower(base, exponent, location, meaning);

const CALLS: Readonly<Record<string, Saying>> = {
  lower: as('lower', 1),
  upper: as('upper', 1),
  length: as('char_length', 1),
  char_length: as('char_length', 1),
  character_length: as('char_length', 1),
  replace: as('replace', 3),
  abs: ofNumber('abs'),
  floor: ofNumber('floor'),
  ceil: ofNumber('ceiling'),
  ceiling: ofNumber('ceiling'),
  sqrt: ofNumber('sqrt'),
  mod: as('mod', 2),
  div: divided,
  power: raised,
  pow: raised,
  round: rounded,
  btrim: trimmed('both'),
  trim: trimmed('both'),
  ltrim: trimmed('leading'),
  rtrim: trimmed('trailing'),
  position: position(0, 1),
  strpos: position(0, 1),
  substring,
  substr: substring,
  left: firstLetters,
  overlay: overlaid,
  extract,
  date_part: extract,
  date_trunc: begun,
  make_date: ofDate,
  to_char: written,
  to_date: readDay,
  concat: joinedTexts(false),
  concat_ws: joinedTexts(true),
  now: () => one('current_timestamp'),
  transaction_timestamp: () => one('current_timestamp'),
};
