/**
 * Calendar arithmetic on integers, in the proleptic Gregorian calendar. Days count from 1970-01-01,
 * times and date-times are microseconds. Conversions after H. Hinnant, "chrono-compatible low-level
 * date algorithms" (days_from_civil, civil_from_days).
 */
export interface CivilDate {
  readonly year: number;
  readonly month: number;
  readonly day: number;
}

export const DAY_MICROS = 86_400_000_000n;

export function daysFromCivil({ year, month, day }: CivilDate): number {
  const y = month <= 2 ? year - 1 : year;
  const era = Math.floor(y / 400);
  const yearOfEra = y - era * 400;
  const dayOfYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + day - 1;
  const dayOfEra = yearOfEra * 365 + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100) + dayOfYear;
  return era * 146_097 + dayOfEra - 719_468;
}

export function civilFromDays(days: number): CivilDate {
  const z = days + 719_468;
  const era = Math.floor(z / 146_097);
  const dayOfEra = z - era * 146_097;
  const yearOfEra = Math.floor(
    (dayOfEra - Math.floor(dayOfEra / 1460) + Math.floor(dayOfEra / 36_524) - Math.floor(dayOfEra / 146_096)) / 365,
  );
  const dayOfYear = dayOfEra - (365 * yearOfEra + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100));
  const shifted = Math.floor((5 * dayOfYear + 2) / 153);
  const month = shifted < 10 ? shifted + 3 : shifted - 9;
  return {
    year: yearOfEra + era * 400 + (month <= 2 ? 1 : 0),
    month,
    day: dayOfYear - Math.floor((153 * shifted + 2) / 5) + 1,
  };
}

export function daysInMonth(year: number, month: number): number {
  if (month === 2) return year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0) ? 29 : 28;
  return [4, 6, 9, 11].includes(month) ? 30 : 31;
}

const pad = (value: number | bigint, width: number) => value.toString().padStart(width, '0');

/** ISO text of a day in the years 1 to 9999, as sources write it. */
export function formatDate(days: number): string {
  const { year, month, day } = civilFromDays(days);
  return `${pad(year, 4)}-${pad(month, 2)}-${pad(day, 2)}`;
}

/** A day of the years 1 to 9999; others are none. */
export function parseDate(source: string): number | undefined {
  const match = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(source.trim());
  if (!match) return undefined;
  const [year, month, day] = [Number(match[1]), Number(match[2]), Number(match[3])];
  if (year < 1 || month < 1 || month > 12 || day < 1 || day > daysInMonth(year, month)) return undefined;
  return daysFromCivil({ year, month, day });
}

/** `10:42:07.5`; trailing zeros of the fraction are left out, as PostgreSQL does. */
export function formatTime(micros: bigint): string {
  const seconds = micros / 1_000_000n;
  const fraction = pad(micros % 1_000_000n, 6).replace(/0+$/, '');
  const clock = `${pad(seconds / 3600n, 2)}:${pad((seconds / 60n) % 60n, 2)}:${pad(seconds % 60n, 2)}`;
  return fraction === '' ? clock : `${clock}.${fraction}`;
}

export function parseTime(source: string): bigint | undefined {
  const match = /^(\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,6}))?)?$/.exec(source.trim());
  if (!match) return undefined;
  const [hours, minutes, seconds] = [Number(match[1]), Number(match[2]), Number(match[3] ?? '0')];
  if (hours > 23 || minutes > 59 || seconds > 59) return undefined;
  return BigInt((hours * 60 + minutes) * 60 + seconds) * 1_000_000n + BigInt((match[4] ?? '').padEnd(6, '0') || '0');
}

export function formatDatetime(micros: bigint): string {
  const days = floorDivide(micros, DAY_MICROS);
  return `${formatDate(Number(days))} ${formatTime(micros - days * DAY_MICROS)}`;
}

/** A date, or a date and a time separated by a blank or `T`. */
export function parseDatetime(source: string): bigint | undefined {
  const [datePart = '', timePart, ...rest] = source.trim().split(/[ T]/);
  const days = parseDate(datePart);
  const clock = timePart === undefined ? 0n : parseTime(timePart);
  if (days === undefined || clock === undefined || rest.length > 0) return undefined;
  return BigInt(days) * DAY_MICROS + clock;
}

/** An instant as its UTC date-time followed by its offset; a missing offset means UTC. */
export function parseInstant(source: string): bigint | undefined {
  const match = /^(.*?)(?:Z|([+-])(\d{2})(?::?(\d{2}))?)?$/.exec(source.trim());
  const local = match?.[1] === undefined ? undefined : parseDatetime(match[1]);
  if (!match || local === undefined) return undefined;
  const offset = BigInt(Number(match[3] ?? '0') * 60 + Number(match[4] ?? '0')) * 60_000_000n;
  return match[2] === '-' ? local + offset : local - offset;
}

export function floorDivide(a: bigint, b: bigint): bigint {
  const quotient = a / b;
  return a % b !== 0n && a < 0n !== b < 0n ? quotient - 1n : quotient;
}
