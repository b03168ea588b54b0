import type { Layout, Mark, Total } from './layout';

/** Good and poor are told by a sign as well as by a colour. */
export const SIGNS: Readonly<Partial<Record<Mark['look'], string>>> = { good: '+', poor: '\u2212' };

/** What stands behind a marked value: a, b, c … of the lettered marks in their order, the sign of good and poor, else nothing. */
export function letterOf(mark: Mark, marks: readonly Mark[]): string {
  if (mark.look !== 'lettered') return SIGNS[mark.look] ?? '';
  const lettered = marks.filter((each) => each.look === 'lettered');
  return String.fromCharCode(97 + lettered.findIndex((each) => each.id === mark.id));
}

/** For so many letters there has to be room behind the values of a column. */
export function lettersUnder({ marks }: Layout, field: string, of: Total['aggregate'] | undefined): number {
  const own = marks.filter((mark) => mark.field === field && (of === undefined || mark.of === of));
  const signed = own.some((mark) => SIGNS[mark.look] !== undefined) ? 1 : 0;
  return own.filter((mark) => mark.look === 'lettered').length + signed;
}
