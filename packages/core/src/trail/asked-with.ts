import { clausesWithin } from '../criteria';
import type { FieldId } from '../fields';
import { commonType } from '../expressions';
import type { Choices, Narrowing, Parameter } from '../parameters';
import { parameterType } from '../parameters';
import type { Catalogue, TableField, TableStep } from '../steps';
import { kindOf, ofKind } from '../steps';
import type { CheckedTrail } from './checked-trail';

/** A column as a table step reads it. */
interface Read {
  readonly table: TableStep;
  readonly field: TableField;
}

/** The field of a table a parameter is compared with in a clause; undefined where there is none, or what is made of several. */
export function fieldAskedWith(trail: CheckedTrail, parameter: string): FieldId | undefined {
  const clauses = trail.definition.steps.flatMap((step) => ofKind('criteria', step)?.clauses ?? []).flatMap(clausesWithin);
  for (const clause of clauses) {
    if (clause.kind !== 'condition' || !clause.operands.some((each) => each.kind === 'parameter' && each.id === parameter)) continue;
    const read = readAs(trail, clause.field);
    if (read) return read.field.id;
  }
  return undefined;
}

/**
 * What the choices of a parameter would be narrowed by first: another parameter that is asked with a field of the table
 * they come from, one that a declared key leads to, or one of the same name and type there. Undefined where none is.
 */
export function narrowingFor(
  trail: CheckedTrail,
  parameter: Parameter,
  { field, narrowedBy }: Exclude<Choices, { from: 'typed' }>,
  catalogue: Catalogue,
): Narrowing | undefined {
  const own = readAs(trail, field);
  if (!own) return undefined;
  const taken = new Set([parameter.id, ...narrowedBy.map((each) => each.parameter)]);
  const others = trail.definition.parameters.filter(({ id }) => !taken.has(id));
  const found = others.flatMap((each) => {
    const read = readAs(trail, fieldAskedWith(trail, each.id) ?? '');
    const fits = (of: TableField) => of.id !== field && commonType(of.type, parameterType(each)) !== undefined;
    return read ? [{ parameter: each.id, read, fits }] : [];
  });
  const by = (way: (of: (typeof found)[number]) => TableField | undefined): Narrowing | undefined => {
    for (const each of found) {
      const there = way(each);
      if (there && each.fits(there)) return { parameter: each.parameter, field: there.id };
    }
    return undefined;
  };
  return (
    by(({ read }) => (read.table.id === own.table.id ? read.field : undefined)) ??
    by(({ read }) => own.table.fields.find((each) => each.column === keyTo(own.table, read, catalogue))) ??
    by(({ read }) => own.table.fields.find((each) => each.column === read.field.column))
  );
}

/** The column of a table that a declared key leads to a read column by. */
function keyTo(table: TableStep, read: Read, catalogue: Catalogue): string | undefined {
  const known = catalogue({ kind: 'table', source: table.source, schema: table.schema, table: table.table });
  if (known === undefined || known === 'gone') return undefined;
  for (const { otherSchema, otherTable, otherColumns, columns } of known.relations) {
    if (otherSchema !== read.table.schema || otherTable !== read.table.table) continue;
    const at = otherColumns.indexOf(read.field.column);
    if (at >= 0) return columns[at];
  }
  return undefined;
}

/** The column a field is brought along from, unchanged; joins and lookups give such fields ids of their own. */
function readAs(trail: CheckedTrail, id: FieldId): Read | undefined {
  const minted = trail.steps.find(({ step }) => kindOf(step).mints(step).includes(id));
  const table = ofKind('table', minted?.step);
  const field = table?.fields.find((each) => each.id === id);
  if (table && field) return { table, field };
  if (minted?.step.kind !== 'join' && minted?.step.kind !== 'lookup') return undefined;
  const [from] = kindOf(minted.step).origin(minted.step, id)?.fields ?? [];
  return from === undefined ? undefined : readAs(trail, from);
}
