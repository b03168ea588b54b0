import { formatDate, parseDate } from './calendar';

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
  const wide = /^\d:/.test(clock) ? `0${clock}` : clock;
  return [...new Set(days)].map((day) => `${day} ${wide}`.trimEnd());
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

/** The day as ISO, if it is one. */
function dayOf(year: string | undefined, month: string | number | undefined, day: string | undefined): readonly string[] {
  const found = parseDate(`${year}-${month}-${day}`);
  return found === undefined ? [] : [formatDate(found)];
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
