/** The shortest digits that mean the number. Zero has no sign. */
export function floatText(value: number): string {
  if (!Number.isFinite(value)) return Number.isNaN(value) ? 'NaN' : value > 0 ? 'Infinity' : '-Infinity';
  if (value === 0) return '0';
  // Of this size the language writes the same digits without an exponent.
  const size = Math.abs(value);
  if (size >= 1e-4 && size < 1e15) return String(value);
  const [digits = '0', exponentText = '0'] = value.toExponential().split('e');
  const exponent = Number(exponentText);
  return `${digits}e${exponent < 0 ? '-' : '+'}${String(Math.abs(exponent)).padStart(2, '0')}`;
}
