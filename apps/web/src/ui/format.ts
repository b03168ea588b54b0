import { grouped } from '@cendra/core';

export { grouped };

/** `3 201  −74 %`: the change of a count against the one before it; empty when nothing changed or nothing was there. */
export function changeAgainst(count: string, before: string | undefined): string {
  if (before === undefined || before === '0' || before === count) return '';
  const percent = (Number(count) / Number(before) - 1) * 100;
  // Some rows are left: then not all of them went.
  const near = Math.abs(percent) < 1 || (percent <= -99.5 && count !== '0');
  const rounded = near ? Math.max(percent, -99.9).toFixed(1) : Math.round(percent).toString();
  return `${rounded.replace('-', '−')} %`.replace(/^(?=\d)/, '+');
}

/** A moment where it is read at once: the time alone today, else the day as well. */
export function clock(iso: string): string {
  const at = new Date(iso);
  return at.toDateString() === new Date().toDateString() ? timeOf(at) : `${dayOf(at)} ${timeOf(at).slice(0, 5)}`;
}

/** A moment where it is read on other days too, such as on paper. */
export function dated(iso: string): string {
  const at = new Date(iso);
  return `${dayOf(at)} ${timeOf(at)}`;
}

// Made once: making one takes far longer than writing a moment with it.
const TIME = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', second: '2-digit' });
const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
const timeOf = (at: Date) => TIME.format(at);
const dayOf = (at: Date) => DAY.format(at);

/** Bytes as megabytes, with one decimal. */
export const megabytes = (bytes: number): string => (bytes / 1_000_000).toFixed(1);

/** Why a text cannot be kept that has more characters than there is room for. */
export const tooLong = (text: string, most: number): string | undefined =>
  text.length > most ? `${grouped(text.length)} characters, ${grouped(most)} at most` : undefined;
