import type { Expression } from '../../expressions';
import { digitsOf } from '../../expressions';
import type { FieldType } from '../../fields';
import { fitsAtOnce } from '../dialect';
import { duckdbTypeName } from './names';
import { finite, once } from './once';

/** Arithmetic with Cendra's digits. DuckDB's own division of decimals is floating, so quotients are made of whole digits. */
export function arithmeticSql(node: Expression & { op: 'arithmetic' }, left: string, right: string): string {
  if (node.type.kind !== 'decimal') return finite(`${left} ${node.operator} ${right}`);
  const type = duckdbTypeName(node.type);
  if (node.operator === '/') return quotient(node, node.type.scale, left, right);
  if (node.operator === '*')
    return `cast(${wide(node.left.type, left, node.right.type)} * ${wide(node.right.type, right, node.left.type)} as ${type})`;
  return `cast(cast(${left} as ${type}) ${node.operator} cast(${right} as ${type}) as ${type})`;
}

/** DuckDB multiplies in 18 digits while both operands have no more; one wider operand makes it use 38. */
function wide(type: FieldType, sql: string, other: FieldType): string {
  const [own, others] = [digitsOf(type), digitsOf(other)];
  const widens = own && others && own.precision <= 18 && others.precision <= 18 && own.precision + others.precision > 18;
  if (type.kind === 'whole') return `cast(${sql} as decimal(19,0))`;
  return widens ? `cast(${sql} as decimal(19,${own.scale}))` : sql;
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
