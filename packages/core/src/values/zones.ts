import { DAY_MICROS, daysFromCivil, floorDivide, formatDatetime, formatTime, parseInstant } from './calendar';

/**
 * Times of a place. Its rules come from the IANA time zone database as the JavaScript engine carries it; databases
 * carry the same one. A zone is named as there (`Europe/Vienna`); without one, an instant is read in UTC.
 */
export const UTC = 'UTC';

/** Whether there is a zone of this name. Offsets such as `+02:00` are no zones: they do not know summer from winter. */
export function isZone(name: string): boolean {
  if (!/^[A-Za-z][A-Za-z0-9_+/-]*$/.test(name)) return false;
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return true;
  } catch {
    return false;
  }
}

/** Zones to choose from, UTC first, then in the order of their names. */
export const zones = (): readonly string[] => [UTC, ...Intl.supportedValuesOf('timeZone').filter((each) => each !== UTC)];

/** What clocks of the zone show at an instant; both are microseconds, as of an instant and of a date-time. */
export const localOf = (instant: bigint, zone: string = UTC): bigint => instant + offsetAt(instant, zone);

/**
 * The instant at which clocks of the zone show a date-time. Of two, when clocks are put back, the later one; of none,
 * when they are put forward, what clocks that were not would show. PostgreSQL and DuckDB do the same.
 */
export function instantOf(local: bigint, zone: string = UTC): bigint {
  if (zone === UTC) return local;
  const [before, after] = [offsetAt(local - DAY_MICROS, zone), offsetAt(local + DAY_MICROS, zone)];
  const later = local - after;
  return offsetAt(later, zone) === after ? later : local - before;
}

/** An instant in wire form as clocks of the zone show it, with how far they are from UTC: `2024-07-01 14:00:00+02`. */
export function instantIn(zone: string, wire: string): string {
  const instant = parseInstant(wire);
  if (instant === undefined) return wire;
  const offset = offsetAt(instant, zone);
  const size = offset < 0n ? -offset : offset;
  const [hours, minutes, seconds] = formatTime(size).split(':');
  const finer = seconds !== '00' ? [minutes, seconds] : minutes !== '00' ? [minutes] : [];
  return `${formatDatetime(instant + offset)}${offset < 0n ? '-' : '+'}${[hours, ...finer].join(':')}`;
}

/** Offsets change on whole quarters of an hour, and rows of a report lie close together. */
const QUARTER = 900_000_000n;
/** 1700-01-01: no place kept another than its own sun's time before, and earlier days would come in the Julian calendar. */
const EARLIEST = BigInt(daysFromCivil({ year: 1700, month: 1, day: 1 })) * DAY_MICROS;
const MOST_KNOWN = 100_000;
const known = new Map<string, { readonly format: Intl.DateTimeFormat; readonly offsets: Map<bigint, bigint> }>();

function offsetAt(instant: bigint, zone: string): bigint {
  if (zone === UTC) return 0n;
  const { format, offsets } = clockOf(zone);
  const quarter = floorDivide(instant, QUARTER);
  const found = offsets.get(quarter);
  if (found !== undefined) return found;
  if (offsets.size >= MOST_KNOWN) offsets.clear();
  const asked = quarter * QUARTER > EARLIEST ? quarter * QUARTER : EARLIEST;
  const offset = shown(format, asked) - asked;
  offsets.set(quarter, offset);
  return offset;
}

function clockOf(zone: string) {
  const clock = known.get(zone) ?? {
    format: new Intl.DateTimeFormat('en-u-ca-gregory-nu-latn', {
      timeZone: zone,
      year: 'numeric',
      month: 'numeric',
      day: 'numeric',
      hour: 'numeric',
      minute: 'numeric',
      second: 'numeric',
      hourCycle: 'h23',
    }),
    offsets: new Map<bigint, bigint>(),
  };
  known.set(zone, clock);
  return clock;
}

function shown(format: Intl.DateTimeFormat, instant: bigint): bigint {
  const parts = new Map(format.formatToParts(Number(instant / 1000n)).map(({ type, value }) => [type, value]));
  const part = (type: Intl.DateTimeFormatPartTypes) => Number(parts.get(type));
  const day = daysFromCivil({ year: part('year'), month: part('month'), day: part('day') });
  return BigInt(day) * DAY_MICROS + BigInt((part('hour') * 60 + part('minute')) * 60 + part('second')) * 1_000_000n;
}
