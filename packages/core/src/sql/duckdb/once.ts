/** What can be written twice without being computed twice: a column, a number, a bound value. */
const SIMPLE = /^(?:(?:"(?:[^"]|"")+"\.)?"(?:[^"]|"")+"|\(?-?[0-9.]+\)?|v\.a[0-9]+|cast\(\$[0-9]+ as [a-z0-9(),]+\)|true|false)$/;

/**
 * A piece of SQL that uses its operands more than once. Operands that would have to be computed again are named
 * first, as the only item of a list; a select of its own would become a join.
 */
export function once(operands: readonly string[], write: (...names: string[]) => string): string {
  if (operands.every((each) => SIMPLE.test(each))) return `(${write(...operands)})`;
  const named = operands.map((each, index) => `a${index}: ${each}`).join(', ');
  return `list_transform([{${named}}], lambda v: ${write(...operands.map((_, index) => `v.a${index}`))})[1]`;
}

/** Null where a floating result is not a finite number. */
export const finite = (sql: string) => once([sql], (x) => `case when isfinite(${x}) then ${x} end`);
