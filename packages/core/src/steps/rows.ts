import type { Row, Window } from '../expressions';
import type { Binding } from '../parameters';
import type { Value } from '../values';

/** A row of values and the bound parameters, as the evaluator reads them; values over other rows as they were computed. */
export function rowOf(
  row: ReadonlyMap<string, Value>,
  binding: Pick<Binding, 'bound' | 'now'>,
  window: (node: Window) => Value = () => null,
): Row {
  return {
    now: binding.now,
    window,
    field: (id) => row.get(id) ?? null,
    parameter: (id, part) => {
      const bound = binding.bound.get(id);
      return bound?.takes === 'one' ? bound.value : bound?.takes === 'range' && part ? bound[part] : null;
    },
    list: (id) => {
      const bound = binding.bound.get(id);
      return bound?.takes === 'several' ? bound.values : [];
    },
  };
}
