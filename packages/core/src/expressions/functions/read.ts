import { date, datetime, decimal, MAX_DIGITS, text, whole } from '../../fields';
import { arithmetic, call, cast, compare, extract, isNull, not, shift, textLiteral, when, widen, wholeLiteral, smallSum } from '../build';
import type { Expression } from '../expression';
import type { DatePart, PatternPiece } from './date-pattern';
import { CLOCK_PARTS, MONTHS, readDatePattern, WEEKDAYS } from './date-pattern';
import { named, numberPattern, signs } from './format';
import type { Affixes } from './number-pattern';
import type { FunctionSpec, Operands } from './spec';

/** Integer digits a number read by a pattern may have; a type of more would leave its products and sums no room. */
const WHOLE_DIGITS = 26;

/** A regular expression that three engines read alike: signs are escaped as classes, letters stand for themselves. */
const exactly = (source: string) => source.replace(/[\\^\]]/g, '\\$&').replace(/[.*+?${}()|[/-]/g, '[$&]');
const anyCase = (name: string) => [...name].map((char) => `[${char.toUpperCase()}${char.toLowerCase()}]`).join('');

const captured = (of: Expression, pattern: string, group: number) => call('captured', text, of, textLiteral(pattern), wholeLiteral(group));

function readNumber(operands: Operands): Expression | undefined {
  const of = operands.text(0);
  const pattern = numberPattern(operands);
  const sign = signs(operands);
  if (!of || !pattern || !sign) return undefined;
  const places = pattern.mostDecimals;
  const group = exactly(sign.group);
  const wholeDigits = pattern.group > 0 ? `[0-9]{1,${pattern.group}}(?:${group}[0-9]{${pattern.group}})*|[0-9]+` : '[0-9]+';
  const decimals = places > 0 ? `(?:${exactly(sign.decimal)}[0-9]{1,${places}})?` : '';
  const around = ({ before, after }: Affixes) => `^ *${exactly(before)}((?:${wholeDigits})${decimals})${exactly(after)} *$`;
  const type = decimal(Math.min(MAX_DIGITS, WHOLE_DIGITS + places), places);
  const value = (affixes: Affixes) => {
    const digits = call('replace', text, captured(of, around(affixes), 1), textLiteral(sign.group), textLiteral(''));
    const plain = sign.decimal === '.' ? digits : call('replace', text, digits, textLiteral(sign.decimal), textLiteral('.'));
    return cast(plain, type);
  };
  const negative: Expression = { op: 'negate', type, of: value(pattern.negative) };
  const number = when(not(isNull(captured(of, around(pattern.negative), 1))), negative, value(pattern.positive));
  return pattern.percent ? arithmetic('*', number, { op: 'literal', type: decimal(3, 2), value: { digits: 1n, scale: 2 } }) : number;
}

/** What each part looks like in a text; ranges are checked by the shape where a date could not refuse them. */
function shapeOf({ part, style }: PatternPiece & { kind: 'part' }): string {
  switch (part) {
    case 'year':
      return style === 4 ? '([0-9]{4})' : style === 2 ? '([0-9]{2})' : '([0-9]{1,4})';
    case 'month':
      return style > 2 ? namesShape(MONTHS, style) : style === 2 ? '([0-9]{2})' : '([0-9]{1,2})';
    case 'day':
      return style === 2 ? '([0-9]{2})' : '([0-9]{1,2})';
    case 'weekday':
      return namesShape(WEEKDAYS, style);
    case 'hour':
      return style === 2 ? '([01][0-9]|2[0-3])' : '(2[0-3]|[01]?[0-9])';
    case 'hour12':
      return style === 2 ? '(0[1-9]|1[0-2])' : '(1[0-2]|0?[1-9])';
    case 'halfday':
      return '([AaPp][Mm])';
    case 'minute':
    case 'second':
      return style === 2 ? '([0-5][0-9])' : '([0-5]?[0-9])';
    case 'fraction':
      return `([0-9]{${style}})`;
    case 'quarter':
      return '';
  }
}

const namesShape = (names: readonly string[], style: number) =>
  `(${names.map((name) => anyCase(style === 4 ? name : name.slice(0, 3))).join('|')})`;

const isVariable = ({ part, style }: PatternPiece & { kind: 'part' }) =>
  style === 1 && part !== 'halfday' && part !== 'weekday' && part !== 'fraction';
const isNumeral = (piece: PatternPiece | undefined) =>
  piece?.kind === 'part' && piece.part !== 'halfday' && piece.part !== 'weekday' && !(piece.part === 'month' && piece.style > 2);

/** Why a pattern that shows dates cannot read them; undefined when it can. */
function unreadable(pieces: readonly PatternPiece[], clock: boolean): string | undefined {
  const parts = pieces.flatMap((each) => (each.kind === 'part' ? [each.part] : []));
  const twice = parts.find((part, index) => parts.indexOf(part) !== index);
  if (twice) return `it asks for the ${twice} twice`;
  if (parts.includes('quarter')) return 'a quarter alone gives no day';
  if (!parts.includes('year')) return 'it has no year';
  if (parts.includes('day') && !parts.includes('month')) return 'it has a day and no month';
  if (!clock && parts.some((part) => CLOCK_PARTS.includes(part))) return 'it has a time of day; parse_datetime reads that';
  if (parts.includes('hour12') !== parts.includes('halfday')) return 'h and a belong together';
  if (parts.includes('hour') && parts.includes('hour12')) return 'it has two hours';
  const glued = pieces.some((piece, index) => piece.kind === 'part' && isVariable(piece) && isNumeral(pieces[index + 1]));
  return glued ? 'two numbers stand together without a fixed number of digits' : undefined;
}

const readDay =
  (clock: boolean) =>
  (operands: Operands): Expression | undefined => {
    const of = operands.text(0);
    const source = operands.writtenText(1, 'the pattern');
    if (!of || source === undefined) return undefined;
    const pieces = readDatePattern(source);
    const wrong = typeof pieces === 'string' ? pieces : unreadable(pieces, clock);
    const expected = `a pattern such as 'dd.MM.yyyy${clock ? ' HH:mm' : ''}'`;
    if (typeof pieces === 'string' || wrong)
      return operands.fail('pattern-none', `'${source}' is no pattern to read with: ${wrong}.`, 1, expected);
    const shape = `^ *${pieces.map((piece) => (piece.kind === 'text' ? exactly(piece.text) : shapeOf(piece))).join('')} *$`;
    const parts = pieces.flatMap((piece) => (piece.kind === 'part' ? [piece] : []));
    const found = (part: DatePart) => {
      const at = parts.findIndex((each) => each.part === part);
      const piece = parts[at];
      return piece && { text: captured(of, shape, at + 1), style: piece.style };
    };
    const number = (part: DatePart) => {
      const piece = found(part);
      return piece && cast(piece.text, whole);
    };
    const day = call('dayOf', date, yearOf(found('year')), monthOf(found('month')) ?? wholeLiteral(1), number('day') ?? wholeLiteral(1));
    const agreeing = onWeekday(day, found('weekday'));
    return clock ? withClock(agreeing, number, found('halfday')?.text, found('fraction')) : agreeing;
  };

/** The day where it is the weekday the text says as well; a contradiction is a failure. */
function onWeekday(day: Expression, said: Found | undefined): Expression {
  if (!said) return day;
  const own = named(extract('weekday', day), WEEKDAYS, said.style);
  const never = call('dayOf', date, wholeLiteral(1), wholeLiteral(1), wholeLiteral(0));
  return when(compare('=', call('lower', text, own), call('lower', text, said.text)), day, never);
}

interface Found {
  readonly text: Expression;
  readonly style: number;
}

/** Two digits mean 1970 to 2069. */
function yearOf(found: Found | undefined): Expression {
  const year = cast(found?.text ?? textLiteral(''), whole);
  if (found?.style !== 2) return year;
  return when(compare('<', year, wholeLiteral(70)), smallSum('+', year, wholeLiteral(2000)), smallSum('+', year, wholeLiteral(1900)));
}

function monthOf(found: Found | undefined): Expression | undefined {
  if (!found || found.style < 3) return found && cast(found.text, whole);
  const typed = call('lower', text, found.text);
  return {
    op: 'case',
    type: whole,
    branches: MONTHS.map((name, index) => ({
      when: compare('=', typed, textLiteral((found.style === 4 ? name : name.slice(0, 3)).toLowerCase())),
      then: wholeLiteral(index + 1),
    })),
    // Not reached while the text fits the shape; where it does not, this carries the failure on.
    otherwise: cast(found.text, whole),
  };
}

function withClock(
  day: Expression,
  number: (part: DatePart) => Expression | undefined,
  halfday: Expression | undefined,
  fraction: Found | undefined,
): Expression {
  let moment: Expression = widen(day, datetime);
  const hour12 = number('hour12');
  const afternoon = halfday && compare('=', call('lower', text, halfday), textLiteral('pm'));
  const hour =
    hour12 && afternoon
      ? smallSum('+', call('mod', whole, hour12, wholeLiteral(12)), when(afternoon, wholeLiteral(12), wholeLiteral(0)))
      : number('hour');
  const amounts = [
    ['hour', hour],
    ['minute', number('minute')],
    ['second', number('second')],
  ] as const;
  for (const [unit, amount] of amounts) if (amount) moment = shift(moment, amount, unit);
  if (!fraction) return moment;
  return shift(moment, smallSum('*', cast(fraction.text, whole), wholeLiteral(10 ** (6 - fraction.style))), 'microsecond');
}

export const READING: readonly FunctionSpec[] = [
  {
    name: 'parse_number',
    group: 'patterns',
    signature: "parse_number(text, '#,##0.00')",
    says: "the number a text means by a pattern; a third operand such as ',.' gives the decimal sign and the group sign",
    least: 2,
    most: 3,
    build: readNumber,
  },
  {
    name: 'parse_date',
    group: 'patterns',
    signature: "parse_date(text, 'dd.MM.yyyy')",
    says: 'the date a text means by a pattern',
    least: 2,
    most: 2,
    build: readDay(false),
  },
  {
    name: 'parse_datetime',
    group: 'patterns',
    signature: "parse_datetime(text, 'dd.MM.yyyy HH:mm')",
    says: 'the date-time a text means by a pattern',
    least: 2,
    most: 2,
    build: readDay(true),
  },
];
