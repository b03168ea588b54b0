import type { Expression } from '../../expressions';

/** What costs less to write twice than to name: a column, a number, a bound value, a change of type of one of them. */
const NAME = '"(?:[^"]|"")+"';
const COLUMN = `(?:${NAME}\\.)?${NAME}`;
const FITTING = `\\(case when ${COLUMN} [<>]=? '[^']*'(?: and ${COLUMN} [<>]=? '[^']*')? then ${COLUMN} end\\)`;
const ATOM = `${FITTING}|${COLUMN}|\\(?-?[0-9.]+\\)?|v\\.a[0-9]+|\\$[0-9]+|current_setting\\('[a-z.0-9]+'\\)|\\(select current_setting\\('[a-z.0-9]+'\\)::[a-z ]+\\)|true|false`;
const SIMPLE = new RegExp(
  `^(?:${ATOM}|timezone\\('[A-Za-z0-9_+/-]+', (?:${ATOM})\\)|substring\\((?:${ATOM})(?:, [0-9]+){1,2}\\))(?:::[a-z ]+)*$`,
);

/**
 * A piece of SQL that uses its operands more than once. Operands that would have to be computed again are named
 * first, in a select of one row that PostgreSQL does not take apart.
 */
export function once(operands: readonly string[], write: (...names: string[]) => string): string {
  if (operands.every((each) => SIMPLE.test(each))) return `(${write(...operands)})`;
  const named = operands.map((each, index) => `${each} as a${index}`).join(', ');
  return `(select ${write(...operands.map((_, index) => `v.a${index}`))} from (select ${named} offset 0) v)`;
}

/** Null where the integer part needs more digits than the type has. */
export function guarded(sql: string, wholeDigits: number): string {
  return once([sql], (x) => `case when abs(${x}) < 1e${wholeDigits} then ${x} end`);
}

/** A divisor that is null instead of zero; one that is written out and not zero stays as it is. */
export function divisor(node: Expression | undefined, sql: string): string {
  const known = node?.op === 'literal' && typeof node.value === 'object' && node.value !== null && node.value.digits !== 0n;
  return known ? sql : `nullif(${sql}, 0)`;
}

/** Null where a floating result is not a finite number. */
export const finite = (sql: string) => `nullif(nullif(nullif(${sql}, 'Infinity'), '-Infinity'), 'NaN')`;
