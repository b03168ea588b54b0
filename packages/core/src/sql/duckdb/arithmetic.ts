import type { Expression } from '../../expressions';
import { digitsOf, mayOverflow } from '../../expressions';
import { fitsAtOnce, writtenDigits } from '../dialect';
import { duckdbTypeName } from './names';
import { finite, once } from './once';

/** Arithmetic with Cendra's digits. DuckDB's own division of decimals is floating, so quotients are made of whole digits. */
export function arithmeticSql(node: Expression & { op: 'arithmetic' }, left: string, right: string): string {
  if (node.type.kind !== 'decimal') return finite(`${left} ${node.operator} ${right}`);
  const type = duckdbTypeName(node.type);
  if (node.operator === '/') return quotient(node, node.type.scale, left, right);
  if (node.operator === '*') return `cast(${wide(node.left, left, node.right)} * ${wide(node.right, right, node.left)} as ${type})`;
  const sum = `cast(${left} as ${type}) ${node.operator} cast(${right} as ${type})`;
  // It raises where it has more digits than there are; then there is no sum.
  return `cast(${mayOverflow(node.operator, node.left.type, node.right.type) ? `try(${sum})` : sum} as ${type})`;
}

/** DuckDB multiplies in 18 digits while both operands have no more; one wider operand makes it use 38. */
function wide(node: Expression, sql: string, other: Expression): string {
  const [own, others] = [writtenDigits(node), writtenDigits(other)];
  if (node.type.kind === 'whole') return `cast(${sql} as decimal(${Math.max(own, Math.min(19, 38 - others))},0))`;
  const widens = own <= 18 && others <= 18 && own + others > 18;
  return widens ? `cast(${sql} as decimal(19,${digitsOf(node.type)?.scale ?? 0}))` : sql;
}

/** Digits without their point, as a whole number of up to 38 digits. */
const digits = (sql: string) => `cast(replace(cast(${sql} as varchar), '.', '') as hugeint)`;

/** Rounded once, half away from zero: (2 a + b) ÷ (2 b) of the magnitudes. */
function quotient(node: Expression & { op: 'arithmetic' }, scale: number, left: string, right: string): string {
  const [a, b] = [digitsOf(node.left.type), digitsOf(node.right.type)];
  const shift = scale - (a?.scale ?? 0) + (b?.scale ?? 0);
  const type = duckdbTypeName(node.type);
  const signed = (x: string, y: string, size: string) =>
    `try_cast(case when (${x} < 0) <> (${y} < 0) then '-' else '' end || ${pointed(size, scale)} as ${type})`;
  if (a && b && !fitsAtOnce(a, b, shift))
    return once([digits(left), digits(right)], (x, y) => signed(x, y, inTwo(`abs(${x})`, `abs(${y})`, shift)));
  return once([`${digits(left)} * cast('1${'0'.repeat(shift)}' as hugeint)`, digits(right)], (x, y) =>
    signed(x, y, `cast((2::hugeint * abs(${x}) + abs(${y})) // (2::hugeint * nullif(abs(${y}), 0)) as varchar)`),
  );
}

/**
 * The digits of a quotient whose dividend leaves no room to raise its scale: the whole part, and behind it what is left,
 * raised and divided, which is the one that is rounded. Where rounding fills it, one is carried.
 */
function inTwo(a: string, b: string, shift: number): string {
  const raised = `cast('1${'0'.repeat(shift)}' as hugeint)`;
  const whole = `(${a} // nullif(${b}, 0))`;
  const rest = `((2::hugeint * (${a} % nullif(${b}, 0)) * ${raised} + ${b}) // (2::hugeint * nullif(${b}, 0)))`;
  return once([whole, rest], (q, r) => {
    const behind = shift === 0 ? "''" : `lpad(cast(${r} % ${raised} as varchar), ${shift}, '0')`;
    return `cast(${q} + ${r} // ${raised} as varchar) || ${behind}`;
  });
}

/** Digits with a point before the last `scale` of them. */
const pointed = (digitsText: string, scale: number) =>
  once([digitsText], (d) =>
    once(
      [`lpad(${d}, greatest(length(${d}), ${scale + 1})::integer, '0')`],
      (p) => `left(${p}, length(${p}) - ${scale}) || '.' || right(${p}, ${scale})`,
    ),
  );
