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
