import { daysFromCivil, daysInMonth, formatDate } from './calendar';

export interface DayWriting {
  /** Whose names of months are read besides the English ones, as a BCP 47 tag. */
  readonly language: string;
  /** A pattern days are written by where the text stands; it decides between `d/M` and `M/d`. */
  readonly pattern?: string;
}

/**
 * The days a text may mean, written as ISO, with the clock behind them where there is one: one for a text in any form
 * that can only be read one way, two for one such as 3/4/2024, none for what is no day. Years have four digits.
 */
export function readDayText(text: string, { language, pattern = '' }: DayWriting): readonly string[] {
  const [, written = '', clock = ''] = /^(.*?)(?:[ T]+(\d{1,2}:\d{2}(?::\d{2}(?:\.\d{1,6})?)?))?$/.exec(text.trim()) ?? [];
  const days = readingsOf(written.trim(), language, pattern);
  return [...new Set(days)].map((day) =>
    clock === '' ? day : `${day} ${clock.padStart(clock.indexOf(':') === 1 ? clock.length + 1 : 0, '0')}`,
  );
}

function readingsOf(text: string, language: string, pattern: string): readonly string[] {
  const yearFirst = /^(\d{4})([-/.])(\d{1,2})\2(\d{1,2})$/.exec(text) ?? /^(\d{4})()(\d{2})(\d{2})$/.exec(text);
  if (yearFirst) return dayOf(yearFirst[1], yearFirst[3], yearFirst[4]);
  // Points between the parts are only written where the day comes first.
  const points = /^(\d{1,2})\.\s*(\d{1,2})\.\s*(\d{4})$/.exec(text);
  if (points) return dayOf(points[3], points[2], points[1]);
  const parts = /^(\d{1,2})([-/])(\d{1,2})\2(\d{4})$/.exec(text);
  if (parts) {
    const [dayFirst, monthFirst] = [dayOf(parts[4], parts[3], parts[1]), dayOf(parts[4], parts[1], parts[3])];
    const order = /d.*M|M.*d/.exec(pattern)?.[0].charAt(0);
    const known = order === 'd' ? dayFirst : order === 'M' ? monthFirst : [];
    return known.length > 0 ? known : [...dayFirst, ...monthFirst];
  }
  const named = /^(\d{1,2})(?:\.|st|nd|rd|th)?\s+(?:of\s+|de\s+)?(\p{L}+)\.?,?\s+(?:de\s+)?(\d{4})$/iu.exec(text);
  if (named) return dayOf(named[3], monthNamed(named[2], language), named[1]);
  const monthFirst = /^(\p{L}+)\.?\s+(\d{1,2})(?:\.|st|nd|rd|th)?,?\s+(\d{4})$/iu.exec(text);
  return monthFirst ? dayOf(monthFirst[3], monthNamed(monthFirst[1], language), monthFirst[2]) : [];
}

function dayOf(...parts: readonly (string | number | undefined)[]): readonly string[] {
  const [year, month, day] = parts.map(Number) as [number, number, number];
  if (!(year >= 1 && month >= 1 && month <= 12 && day >= 1 && day <= daysInMonth(year, month))) return [];
  return [formatDate(daysFromCivil({ year, month, day }))];
}

/** A name may be cut short after its third letter; undefined where no month, or more than one, begins so. */
function monthNamed(name: string | undefined, language: string): number | undefined {
  const sought = name?.toLowerCase() ?? '';
  const found = ['en', language].map((each) => {
    const names = monthNames(each);
    const same = names.flatMap((forms, at) => (forms.some((form) => form === sought) ? [at + 1] : []));
    if (same.length > 0) return same;
    return sought.length < 3 ? [] : names.flatMap((forms, at) => (forms.some((form) => form.startsWith(sought)) ? [at + 1] : []));
  });
  const [first = []] = found.filter((each) => each.length === 1);
  return first[0];
}

const known = new Map<string, readonly (readonly string[])[]>();

function monthNames(language: string): readonly (readonly string[])[] {
  const names =
    known.get(language) ??
    Array.from({ length: 12 }, (_, month) =>
      (['long', 'short'] as const).flatMap((length) => {
        const at = Date.UTC(2024, month, 15);
        // In a date a name can have another ending than alone.
        const alone = new Intl.DateTimeFormat(language, { month: length, timeZone: 'UTC' }).format(at);
        const within = new Intl.DateTimeFormat(language, { day: 'numeric', month: length, timeZone: 'UTC' })
          .formatToParts(at)
          .find(({ type }) => type === 'month')?.value;
        return [alone, within ?? alone].map((each) => each.toLowerCase().replace(/\.$/, ''));
      }),
    );
  known.set(language, names);
  return names;
}

/**
 * The numbers a text with commas may mean, as they are written here, nearest first: `7,5` is 7.5; `1,000` may be 1000 or
 * 1.000; `1.234,5` is 1234.5. None for what is no such number, or is one as it stands.
 */
export function readCommas(text: string): readonly string[] {
  // A blank between digits groups them; behind a comma it begins another value.
  const plain = text.trim().replace(/(\d)[\s\u00a0\u202f'](?=\d{3}(?!\d))/g, '$1');
  const sign = /^[+-]?/.exec(plain)?.[0] === '-' ? '-' : '';
  const digits = plain.replace(/^[+-]/, '');
  const comma = /^(\d{1,3}(?:\.\d{3})*|\d+),(\d+)$/.exec(digits);
  const grouped = /^\d{1,3}(?:,\d{3})+(?:\.\d+)?$/.test(digits) ? [`${sign}${digits.replaceAll(',', '')}`] : [];
  if (!comma) return grouped;
  const decimal = `${sign}${(comma[1] ?? '').replaceAll('.', '')}.${comma[2]}`;
  return comma[2]?.length === 3 && grouped.length > 0 ? [...grouped, decimal] : [decimal];
}
