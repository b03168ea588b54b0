import type { Binding } from '../parameters';
import type { Rows, TableRows } from '../steps';
import { kindOf } from '../steps';
import type { Definition } from './definition';
import { subTrail } from './check';

/**
 * The rows after a step, computed in core one row at a time. Slow on purpose: it says what a trail
 * means, and the engines are compared with it. Fields for use only are left out of the rows given.
 */
export function evaluateTrail(definition: Definition, stepId: string, binding: Binding, tables: TableRows): Rows {
  const done = new Map<string, Rows>();
  const { parameters, calendar } = definition;
  const context = { parameters, calendar, catalogue: () => undefined, binding, tables };
  for (const step of subTrail(definition, stepId)) {
    const inputs = step.inputs.flatMap((id) => done.get(id) ?? []);
    const [first] = inputs;
    done.set(step.id, step.off && first ? first : kindOf(step).rows(step, inputs, context));
  }
  const rows = done.get(stepId);
  if (!rows) throw new RangeError(`there is no step ${stepId}`);
  const fields = rows.schema.fields.filter((each) => !each.forUseOnly);
  return { schema: { fields }, rows: rows.rows.map((row) => new Map(fields.map(({ id }) => [id, row.get(id) ?? null]))) };
}
