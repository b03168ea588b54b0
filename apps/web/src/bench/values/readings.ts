import type { DayWriting, OperatorFamily } from '@cendra/core';
import { formatDate, parseDate, readCommas, readDayText } from '@cendra/core';

/** What a typed text may mean, written as values are. */
export interface Reading {
  readonly text: string;
  readonly says: string;
}

/** Either the one value a text means, or those it may mean, of which somebody chooses. */
export type Read = { readonly text: string } | { readonly either: readonly Reading[] };
export type Reads = (text: string) => Read;

/** Reads days in every form they are written in, and numbers with commas; other texts are what they are. */
export function readsFor(family: OperatorFamily, writing: DayWriting): Reads {
  if (family === 'day') return (text) => readDay(text, writing);
  return family === 'number' ? readNumber : (text) => ({ text });
}

function readDay(text: string, writing: DayWriting): Read {
  const [first, ...more] = readDayText(text, writing);
  if (first === undefined) return { text };
  if (more.length === 0) return { text: first };
  return { either: [first, ...more].map((each) => ({ text: each, says: inWords(each, writing.language) })) };
}

function readNumber(text: string): Read {
  const found = readCommas(text);
  return found.length === 0 ? { text } : { either: found.map((each) => ({ text: each, says: `the number ${each}` })) };
}

/** `2024-04-03 09:30` as `3 April 2024 09:30`. */
function inWords(iso: string, language: string): string {
  const [day = '', clock = ''] = iso.split(' ');
  const at = parseDate(day);
  if (at === undefined) return iso;
  const words = new Intl.DateTimeFormat(language === 'en' ? 'en-GB' : language, { dateStyle: 'long', timeZone: 'UTC' });
  return `${words.format(new Date(`${formatDate(at)}T00:00:00Z`))}${clock === '' ? '' : ` ${clock}`}`;
}
