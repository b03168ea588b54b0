/**
 * The closed list of types a field can have. It is also the list a result is stored in,
 * so a value keeps its meaning from the source to the file that is taken away.
 */
export type FieldType =
  | { readonly kind: 'text' }
  | { readonly kind: 'whole' }
  /** `precision` total digits (at most 38), `scale` of them after the point. `open` marks a source column without a fixed scale. */
  | { readonly kind: 'decimal'; readonly precision: number; readonly scale: number; readonly open?: true }
  | { readonly kind: 'float' }
  | { readonly kind: 'yesno' }
  | { readonly kind: 'date' }
  | { readonly kind: 'time' }
  | { readonly kind: 'datetime' }
  /** `zone` is where its days begin and what its clock shows; left out: UTC. */
  | { readonly kind: 'instant'; readonly zone?: string }
  | { readonly kind: 'json' };

export type TypeKind = FieldType['kind'];

export const MAX_DIGITS = 38;
/** Decimals kept of a number whose source column fixes none, once arithmetic needs a scale. */
export const OPEN_SCALE = 12;

export const text: FieldType = { kind: 'text' };
export const whole: FieldType = { kind: 'whole' };
export const float: FieldType = { kind: 'float' };
export const yesno: FieldType = { kind: 'yesno' };
export const date: FieldType = { kind: 'date' };
export const time: FieldType = { kind: 'time' };
export const datetime: FieldType = { kind: 'datetime' };
export const instant: FieldType = { kind: 'instant' };
export const json: FieldType = { kind: 'json' };
export const openDecimal: FieldType = { kind: 'decimal', precision: MAX_DIGITS, scale: OPEN_SCALE, open: true };

export function decimal(precision: number, scale: number): FieldType {
  return { kind: 'decimal', precision, scale };
}

const WORDS: Record<TypeKind, string> = {
  text: 'text',
  whole: 'whole number',
  decimal: 'decimal',
  float: 'floating number',
  yesno: 'yes/no',
  date: 'date',
  time: 'time',
  datetime: 'date-time',
  instant: 'instant',
  json: 'JSON',
};

/** The type in plain words, as every screen shows it. */
export function typeWord(type: FieldType): string {
  if (type.kind === 'instant' && type.zone !== undefined) return `${WORDS.instant} in ${type.zone}`;
  if (type.kind !== 'decimal') return WORDS[type.kind];
  return type.open ? 'decimal' : `decimal(${type.precision},${type.scale})`;
}

export const TYPE_KINDS = Object.keys(WORDS) as readonly TypeKind[];

/** A type as it is read in a zone: only instants have one. */
export const readIn = (zone: string | undefined, type: FieldType): FieldType =>
  type.kind === 'instant' && zone !== undefined ? { kind: 'instant', zone } : type;

/** Whether a number keeps its own digits, because its source fixes no scale. */
export const isOpen = (type: FieldType): boolean => type.kind === 'decimal' && type.open === true;

export function isNumber(type: FieldType): boolean {
  return type.kind === 'whole' || type.kind === 'decimal' || type.kind === 'float';
}

export function isDay(type: FieldType): boolean {
  return type.kind === 'date' || type.kind === 'datetime' || type.kind === 'instant';
}

export function sameType(a: FieldType, b: FieldType): boolean {
  if (a.kind !== b.kind) return false;
  return a.kind !== 'decimal' || b.kind !== 'decimal' || (a.precision === b.precision && a.scale === b.scale && a.open === b.open);
}

/** A word with “a” or “an” in front. */
export const withArticle = (word: string): string => `${/^[aeiou]/i.test(word) ? 'an' : 'a'} ${word}`;
