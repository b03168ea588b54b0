/**
 * Numbers without a fixed scale, which are kept as their source's texts: their own digits, no exponents, no zeros in
 * front. They are compared by value here, however many digits they have.
 */

/** SQL for a text that is the same for equal numbers: without zeros at its end. */
export const openValue = (sql: string): string => `case when contains(${sql}, '.') then rtrim(rtrim(${sql}, '0'), '.') else ${sql} end`;

const wholeDigits = (sql: string) => `ltrim(split_part(ltrim(${sql}, '+-'), '.', 1), '0')`;
const decimals = (sql: string) => `rtrim(split_part(${sql}, '.', 2), '0')`;

/**
 * SQL for a text that stands for a number's value: equal where the values are, and in their order by code point. Before
 * the digits stands how many are whole ones; of negative numbers all digits are turned round, and the end is made
 * greater than any digit.
 */
export function openKey(sql: string): string {
  const size = `lpad(length(${wholeDigits(sql)})::varchar, 6, '0') || ${wholeDigits(sql)} || ${decimals(sql)}`;
  const zero = `when ${wholeDigits(sql)} = '' and ${decimals(sql)} = '' then '5'`;
  const negative = `when starts_with(${sql}, '-') then '4' || translate(${size}, '0123456789', '9876543210') || '~'`;
  return `case when ${sql} is null then null ${zero} ${negative} else '6' || ${size} end`;
}
