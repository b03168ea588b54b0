/** An exact decimal number: `digits × 10^-scale`. Never passes through a JavaScript number. */
export interface Decimal {
  readonly digits: bigint;
  readonly scale: number;
}

const PATTERN = /^([+-]?)(\d*)(?:\.(\d*))?(?:[eE]([+-]?\d{1,4}))?$/;

/** Every scale and precision there is asks for one of these. */
const POWERS = Array.from({ length: 80 }, (_each, n) => 10n ** BigInt(n));

export function pow10(n: number): bigint {
  return POWERS[n] ?? 10n ** BigInt(n);
}

/** Reads digits with an optional point and exponent; undefined for anything else (also for NaN and infinities). */
export function parseDecimal(source: string): Decimal | undefined {
  const match = PATTERN.exec(source.trim());
  if (!match) return undefined;
  const [, sign, wholePart = '', fraction = '', exponent = '0'] = match;
  if (wholePart === '' && fraction === '') return undefined;
  const scale = fraction.length - Number(exponent);
  const digits = BigInt(wholePart + fraction);
  const signed = sign === '-' ? -digits : digits;
  return scale < 0 ? { digits: signed * pow10(-scale), scale: 0 } : { digits: signed, scale };
}

/** Plain notation with exactly `scale` decimals, as PostgreSQL writes a numeric. */
export function formatDecimal({ digits, scale }: Decimal): string {
  const negative = digits < 0n;
  const plain = (negative ? -digits : digits).toString().padStart(scale + 1, '0');
  const cut = plain.length - scale;
  const body = scale === 0 ? plain : `${plain.slice(0, cut)}.${plain.slice(cut)}`;
  return negative ? `-${body}` : body;
}

export function ofWhole(value: bigint): Decimal {
  return { digits: value, scale: 0 };
}

/** Integer division rounded half away from zero; `divisor` is not zero. */
export function divideRounded(dividend: bigint, divisor: bigint): bigint {
  const negative = dividend < 0n !== divisor < 0n;
  const a = dividend < 0n ? -dividend : dividend;
  const b = divisor < 0n ? -divisor : divisor;
  const quotient = (2n * a + b) / (2n * b);
  return negative ? -quotient : quotient;
}

/** The same number at another scale; dropping decimals rounds half away from zero. */
export function rescale(value: Decimal, scale: number): Decimal {
  if (scale === value.scale) return value;
  if (scale > value.scale) return { digits: value.digits * pow10(scale - value.scale), scale };
  return { digits: divideRounded(value.digits, pow10(value.scale - scale)), scale };
}

export function compareDecimals(a: Decimal, b: Decimal): number {
  const scale = Math.max(a.scale, b.scale);
  const x = rescale(a, scale).digits;
  const y = rescale(b, scale).digits;
  return x < y ? -1 : x > y ? 1 : 0;
}

export function addDecimals(a: Decimal, b: Decimal): Decimal {
  const scale = Math.max(a.scale, b.scale);
  return { digits: rescale(a, scale).digits + rescale(b, scale).digits, scale };
}

export function multiplyDecimals(a: Decimal, b: Decimal): Decimal {
  return { digits: a.digits * b.digits, scale: a.scale + b.scale };
}

/** `a / b` rounded once, half away from zero, at `scale`; undefined when `b` is zero. */
export function divideDecimals(a: Decimal, b: Decimal, scale: number): Decimal | undefined {
  if (b.digits === 0n) return undefined;
  const shift = scale - a.scale + b.scale;
  const dividend = shift >= 0 ? a.digits * pow10(shift) : a.digits;
  const divisor = shift >= 0 ? b.digits : b.digits * pow10(-shift);
  return { digits: divideRounded(dividend, divisor), scale };
}

export function negateDecimal(value: Decimal): Decimal {
  return { digits: -value.digits, scale: value.scale };
}

export function fitsDigits(value: Decimal, precision: number): boolean {
  const size = value.digits < 0n ? -value.digits : value.digits;
  return size < pow10(precision);
}
