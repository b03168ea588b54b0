import { decimal, MAX_DIGITS, text, whole, yesno } from '../../fields';
import { arithmetic, call, cast, closed, compare, concat, extract, textLiteral, when, wholeLiteral, smallSum } from '../build';
import type { Expression } from '../expression';
import { digitsOf } from '../rules';
import type { Calendar } from '../../values';
import type { DatePart, PatternPiece } from './date-pattern';
import { CLOCK_PARTS, MONTHS, readDatePattern, WEEKDAYS } from './date-pattern';
import { quarterOf } from './dates';
import type { NumberPattern } from './number-pattern';
import { readNumberPattern } from './number-pattern';
import type { FunctionSpec, Operands } from './spec';

export interface Signs {
  readonly decimal: string;
  readonly group: string;
}

export function numberPattern(operands: Operands): NumberPattern | undefined {
  const source = operands.writtenText(1, 'the pattern');
  if (source === undefined) return undefined;
  const pattern = readNumberPattern(source);
  if (typeof pattern !== 'string') return pattern;
  return operands.fail('pattern-none', `'${source}' is no number pattern: ${pattern}.`, 1, "a pattern such as '#,##0.00'");
}

/** The decimal sign and the sign between groups, as one text of two characters; `.,` when left out. */
export function signs(operands: Operands): Signs | undefined {
  const source = operands.count > 2 ? operands.writtenText(2, 'the signs') : '.,';
  const [point, group, ...rest] = [...(source ?? '')];
  if (source === undefined) return undefined;
  if (point === undefined || group === undefined || rest.length > 0 || point === group || /[0-9-]/.test(source))
    return operands.fail(
      'operand-unsuited',
      'The signs are two different characters.',
      2,
      "the decimal sign and the group sign, such as ',.'",
    );
  return { decimal: point, group };
}

const length = (of: Expression) => call('charLength', whole, of);
const minus = (of: Expression, less: number) => smallSum('-', of, wholeLiteral(less));

function formatNumber(operands: Operands): Expression | undefined {
  const number = operands.number(0);
  const pattern = numberPattern(operands);
  const sign = signs(operands);
  if (!number || !pattern || !sign) return undefined;
  const exact = closed(number);
  if (!digitsOf(exact.type))
    return operands.fail(
      'operand-unsuited',
      'A floating number has no exact digits to show.',
      0,
      'a decimal, such as cast(… as decimal(18,2))',
    );
  const value = pattern.percent ? arithmetic('*', exact, wholeLiteral(100)) : exact;
  const digits = digitsOf(value.type) ?? { precision: MAX_DIGITS, scale: 0 };
  const places = pattern.mostDecimals;
  const rounded = cast(value, decimal(Math.min(MAX_DIGITS, digits.precision - digits.scale + 1 + places), places));
  const written = cast(call('abs', rounded.type, rounded), text);
  const shown =
    places === 0
      ? wholePart(written, pattern, sign)
      : concat(wholePart(cutFraction(written, places), pattern, sign), fraction(written, pattern, sign));
  const around = ({ before, after }: NumberPattern['positive']) =>
    concat(...[textLiteral(before), shown, textLiteral(after)].filter((each) => each.op !== 'literal' || each.value !== ''));
  const zero: Expression = { op: 'literal', type: whole, value: { digits: 0n, scale: 0 } };
  return when(compare('<', rounded, zero), around(pattern.negative), around(pattern.positive));
}

const cutFraction = (written: Expression, places: number) =>
  call('substring', text, written, wholeLiteral(1), minus(length(written), places + 1));

function wholePart(digits: Expression, { leastWhole, group }: NumberPattern, sign: Signs): Expression {
  const padded =
    leastWhole === 0
      ? call('trimLeading', text, digits, textLiteral('0'))
      : leastWhole === 1
        ? digits
        : call('padZeros', text, digits, wholeLiteral(leastWhole));
  return group === 0 ? padded : call('groupDigits', text, padded, wholeLiteral(group), textLiteral(sign.group));
}

/** The decimal sign and the decimals; nothing when none has to be shown. */
function fraction(written: Expression, { leastDecimals, mostDecimals }: NumberPattern, sign: Signs): Expression {
  const decimals = call('substring', text, written, minus(length(written), mostDecimals - 1));
  if (leastDecimals === mostDecimals) return concat(textLiteral(sign.decimal), decimals);
  const counting = length(call('trimTrailing', text, decimals, textLiteral('0')));
  const kept = leastDecimals === 0 ? counting : call('greatest', whole, counting, wholeLiteral(leastDecimals));
  const shown = concat(textLiteral(sign.decimal), call('substring', text, decimals, wholeLiteral(1), kept));
  return leastDecimals > 0 ? shown : when(compare('=', counting, wholeLiteral(0)), textLiteral(''), shown);
}

function formatDate(operands: Operands): Expression | undefined {
  const any = operands.any(0);
  const of = any?.type.kind === 'time' ? any : operands.day(0);
  const source = operands.writtenText(1, 'the pattern');
  if (!of || source === undefined) return undefined;
  const pieces = readDatePattern(source);
  if (typeof pieces === 'string')
    return operands.fail('pattern-none', `'${source}' is no date pattern: ${pieces}.`, 1, "a pattern such as 'd MMMM yyyy'");
  const clock = of.type.kind !== 'date';
  const day = of.type.kind !== 'time';
  const lacking = pieces.find((each) => each.kind === 'part' && !(CLOCK_PARTS.includes(each.part) ? clock : day));
  if (lacking?.kind === 'part')
    return operands.fail(
      'pattern-none',
      `A ${of.type.kind} has no ${lacking.part}, which the pattern asks for.`,
      1,
      day ? "a pattern such as 'd MMMM yyyy'" : "a pattern such as 'HH:mm'",
    );
  return concat(...pieces.map((piece) => (piece.kind === 'text' ? textLiteral(piece.text) : written(piece, of, operands.calendar))));
}

const plain = (of: Expression) => cast(of, text);
const two = (of: Expression) => call('padZeros', text, plain(of), wholeLiteral(2));
const numeral = (of: Expression, style: number) => (style === 1 ? plain(of) : two(of));
export const named = (of: Expression, names: readonly string[], style: number) =>
  call('pick', text, of, ...names.map((name) => textLiteral(style === 4 ? name : name.slice(0, 3))));

/** Where parts of two or four digits stand in the text of a date, a date-time and a time. */
const PLACES: Readonly<Partial<Record<DatePart, number>>> = { year: 1, month: 6, day: 9, hour: 12, minute: 15, second: 18 };
const CLOCK_PLACES: Readonly<Partial<Record<DatePart, number>>> = { hour: 1, minute: 4, second: 7 };

/** A part with its zeros, cut out of the text of the date, which is cheaper than its number written again. */
function digitsIn(part: DatePart, style: number, of: Expression): Expression | undefined {
  const at = (of.type.kind === 'time' ? CLOCK_PLACES : PLACES)[part];
  const named = style > 2 && part !== 'year';
  // An hour can be 0, of which nothing would be left without its zeros.
  const bare = style === 1 && (part === 'hour' || part === 'minute' || part === 'second');
  if (at === undefined || named || bare) return undefined;
  const from = part === 'year' && style === 2 ? at + 2 : at;
  const length = style === 1 && part === 'year' ? 4 : Math.max(2, style);
  const digits = call('substring', text, cast(of, text), wholeLiteral(from), wholeLiteral(length));
  return style === 1 ? call('trimLeading', text, digits, textLiteral('0')) : digits;
}

function written({ part, style }: PatternPiece & { kind: 'part' }, of: Expression, calendar: Calendar): Expression {
  const digits = digitsIn(part, style, of);
  if (digits) return digits;
  switch (part) {
    case 'year': {
      return plain(extract('year', of));
    }
    case 'quarter':
      return style === 3 ? concat(textLiteral('Q'), plain(quarterOf(of, calendar))) : numeral(quarterOf(of, calendar), style);
    case 'month':
      return style > 2 ? named(extract('month', of), MONTHS, style) : numeral(extract('month', of), style);
    case 'day':
      return numeral(extract('day', of), style);
    case 'weekday':
      return named(extract('weekday', of), WEEKDAYS, style);
    case 'hour':
      return numeral(extract('hour', of), style);
    case 'hour12':
      return numeral(
        smallSum('+', call('mod', whole, smallSum('+', extract('hour', of), wholeLiteral(11)), wholeLiteral(12)), wholeLiteral(1)),
        style,
      );
    case 'halfday':
      return {
        op: 'case',
        type: text,
        branches: [
          {
            when: { op: 'compare', type: yesno, operator: '<', left: extract('hour', of), right: wholeLiteral(12) },
            then: textLiteral('AM'),
          },
          {
            when: { op: 'compare', type: yesno, operator: '>=', left: extract('hour', of), right: wholeLiteral(12) },
            then: textLiteral('PM'),
          },
        ],
        otherwise: { op: 'literal', type: text, value: null },
      };
    case 'minute':
      return numeral(extract('minute', of), style);
    case 'second':
      return numeral(call('floor', decimal(3, 0), extract('second', of)), style);
    case 'fraction':
      return call(
        'substring',
        text,
        call('padZeros', text, plain(extract('second', of)), wholeLiteral(9)),
        wholeLiteral(4),
        wholeLiteral(style),
      );
  }
}

export const FORMATS: readonly FunctionSpec[] = [
  {
    name: 'format_number',
    group: 'patterns',
    signature: "format_number(number, '#,##0.00')",
    says: "the number as text by a pattern; a third operand such as ',.' gives the decimal sign and the group sign",
    least: 2,
    most: 3,
    build: formatNumber,
  },
  {
    name: 'format_date',
    group: 'patterns',
    signature: "format_date(date, 'd MMMM yyyy')",
    says: 'the date, date-time or time as text by a pattern',
    least: 2,
    most: 2,
    build: formatDate,
  },
];
