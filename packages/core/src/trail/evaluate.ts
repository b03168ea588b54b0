import type { Schema } from '../fields';
import type { Binding } from '../parameters';
import type { Rows, TableRows } from '../steps';
import { kindOf } from '../steps';
import { checkTrail } from './check';
import { checkedStep } from './checked-trail';
import { subTrail } from './sub-trail';
import type { Definition } from './definition';
import { rowsWhenOff } from './off';

/**
 * The rows after a step, computed in core one row at a time. Slow on purpose: it says what a trail
 * means, and the engines are compared with it. Fields for use only are left out of the rows given.
 */
export function evaluateTrail(
  definition: Definition,
  stepId: string,
  binding: Binding,
  tables: TableRows,
): { readonly schema: Schema; readonly rows: Rows } {
  const trail = checkTrail(definition);
  const done = new Map<string, Rows>();
  for (const { id } of subTrail(definition, stepId)) {
    const checked = checkedStep(trail, id);
    if (!checked) continue;
    const { step } = checked;
    const inputs = step.inputs.map((each): Rows => (each === null ? [] : (done.get(each) ?? [])));
    done.set(id, step.off && inputs[0] ? rowsWhenOff(checked, inputs[0]) : kindOf(step).rows(checked, inputs, binding, tables));
  }
  const rows = done.get(stepId);
  if (!rows) throw new RangeError(`there is no step ${stepId}`);
  const fields = checkedStep(trail, stepId)?.schema.fields.filter((each) => !each.forUseOnly) ?? [];
  return { schema: { fields }, rows: rows.map((row) => new Map(fields.map(({ id }) => [id, row.get(id) ?? null]))) };
}
