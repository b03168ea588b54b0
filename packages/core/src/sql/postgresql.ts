import type { Expression } from '../expressions';
import { mayOverflow, naturalScale } from '../expressions';
import type { FieldType } from '../fields';
import type { Dialect } from './dialect';
import { CAPABILITIES } from './dialect';

/** How bound values reach a statement: as `$n`, or (in COPY, which takes none) as settings of the transaction. */
export type ValuePlace = 'numbered' | 'settings';

export const SETTING_PREFIX = 'cendra.p';

const TYPE_NAMES: Record<FieldType['kind'], string> = {
  text: 'text',
  whole: 'bigint',
  decimal: 'numeric',
  float: 'double precision',
  yesno: 'boolean',
  date: 'date',
  time: 'time',
  datetime: 'timestamp',
  instant: 'timestamptz',
  json: 'text',
};

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
const literal = (value: string) => `'${value.replaceAll("'", "''")}'`;

/** PostgreSQL's way of writing each piece. `place` decides how values are read. */
export function postgresql(place: ValuePlace): Dialect {
  const read = (index: number) => (place === 'numbered' ? `$${index}` : `current_setting('${SETTING_PREFIX}${index}')`);
  return {
    name: 'postgresql',
    capabilities: new Set(CAPABILITIES),
    identifier: quote,
    nameBytes: 63,
    typeName: (type) => TYPE_NAMES[type.kind],
    value: (index, type) => `${read(index)}::${TYPE_NAMES[type.kind]}`,
    list: (index, type) => `select unnest(${read(index)}::${TYPE_NAMES[type.kind]}[])`,
    readColumn: (column, sql) => readAs(column.sourceType, sql, column.looseText),
    landed: () => {
      throw new RangeError('nothing is landed in a source');
    },
    binary: (sql) => `${sql} collate "C"`,
    arithmetic,
    negate: (node, of) => `(- ${node.of.type.kind === 'whole' ? `${of}::numeric` : of})`,
    widen,
    like: (of, pattern, escape) => `(${of} like ${pattern} escape ${literal(escape ?? '')})`,
    textMatch: (how, of, part) =>
      how === 'contains'
        ? `(strpos(${of}, ${part}) > 0)`
        : how === 'begins'
          ? `starts_with(${of}, ${part})`
          : `(right(${of}, length(${part})) = ${part})`,
    dayAfter: (of) => `(${of} + 1)`,
  };
}

/** Types whose plain column already has our meaning; everything else is read as its text. */
const PLAIN =
  /^(smallint|integer|bigint|numeric|double precision|boolean|date|text|character varying|time(\(\d\))? without time zone|timestamp(\(\d\))? with(out)? time zone)/;

function readAs(sourceType: string, sql: string, loose: boolean): string {
  if (sourceType === 'real') return `${sql}::text::double precision`;
  const plain = PLAIN.test(sourceType) && !sourceType.endsWith('[]');
  const read = plain ? sql : `${sql}::text`;
  return loose ? `${read} collate "C"` : read;
}

function widen(node: Expression & { op: 'widen' }, of: string): string {
  if (node.of.type.kind === 'instant' && node.type.kind === 'datetime') return `timezone('UTC', ${of})`;
  return `${of}::${TYPE_NAMES[node.type.kind]}`;
}

function arithmetic(node: Expression & { op: 'arithmetic' }, left: string, right: string): string {
  if (node.type.kind !== 'decimal') return floating(node.operator, left, right);
  const { precision, scale } = node.type;
  const a = exact(node.left.type, left);
  const b = exact(node.right.type, right);
  const raw = node.operator === '/' ? quotient(a, b, scale) : `(${a} ${node.operator} ${b})`;
  const cut = node.operator !== '/' && naturalScale(node.operator, node.left.type, node.right.type) > scale;
  const fitted = cut ? `round(${raw}, ${scale})` : raw;
  return mayOverflow(node.operator, node.left.type, node.right.type) ? guarded(fitted, precision - scale) : fitted;
}

/** Whole numbers become numeric before calculating, which cannot overflow; open numbers take their scale. */
function exact(type: FieldType, sql: string): string {
  if (type.kind === 'whole') return `${sql}::numeric`;
  return type.kind === 'decimal' && type.open ? `round(${sql}, ${type.scale})` : sql;
}

/**
 * Rounds once: with 40 more decimals than the result keeps, an inexact quotient can no longer look
 * like an exact half, because divisors have at most 38 digits.
 */
function quotient(left: string, right: string, scale: number): string {
  return `round(round(${left}, ${scale + 40}) / nullif(${right}, 0), ${scale})`;
}

/** Null where the integer part needs more digits than the type has. The operand is written once. */
function guarded(sql: string, wholeDigits: number): string {
  return `(select case when abs(v.x) < 1e${wholeDigits} then v.x end from (select ${sql} as x offset 0) v)`;
}

/** Powers of two, by which scaling a floating number is exact. */
const TWO = {
  512: '1.3407807929942597e154',
  '-512': '7.458340731200207e-155',
  500: '3.273390607896142e150',
  '-500': '3.054936363499605e-151',
  '-540': '2.778448436856347e-163',
  '-51': '4.440892098500626e-16',
} as const;

/**
 * PostgreSQL raises on floating overflow and underflow. Each guard asks whether the operation would, on
 * operands scaled by powers of two so that the question itself cannot raise; operands are written once.
 */
function floating(operator: string, left: string, right: string): string {
  const sum = `when abs(v.a) > 1e300 and abs(v.b) > 1e290 and abs(v.a / 2 ${operator} v.b / 2) > 8.98846567431158e307 then null`;
  const product = [
    `when abs(v.a) > 1 and abs(v.b) > 1 and abs((v.a * ${TWO['-512']}) * (v.b * ${TWO['-512']})) >= 1 then null`,
    `when abs(v.a) < ${TWO['-540']} and abs(v.b) < ${TWO['-540']} then 0`,
    `when abs(v.a) < 1 and abs(v.b) < 1 and v.a <> 0 and v.b <> 0 and abs((v.a * ${TWO[512]}) * (v.b * ${TWO[512]})) <= ${TWO['-51']} then 0`,
  ].join(' ');
  const ratio = [
    'when v.b = 0 then null',
    `when abs(v.a) > ${TWO[500]} and abs(v.b) < ${TWO['-540']} then null`,
    `when (abs(v.a) > ${TWO[500]} or abs(v.b) < ${TWO['-500']}) and abs(v.a) >= ${TWO['-500']} and abs(v.b) < 1 and abs((v.a * ${TWO['-512']}) / (v.b * ${TWO[512]})) >= 1 then null`,
    `when abs(v.a) < 1 and abs(v.b) > 1 and v.a <> 0 and abs((v.a * ${TWO[512]}) / (v.b * ${TWO['-512']})) <= ${TWO['-51']} then 0`,
  ].join(' ');
  const guard = operator === '*' ? product : operator === '/' ? ratio : sum;
  const value = `case ${guard} else v.a ${operator} v.b end`;
  const finite = `nullif(nullif(nullif(${value}, 'Infinity'), '-Infinity'), 'NaN')`;
  return `(select ${finite} from (select ${left} as a, ${right} as b offset 0) v)`;
}
