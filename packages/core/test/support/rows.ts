import type { Row, Value } from '../../src';
import { fieldById, readValue } from '../../src';
import { isMisfit, keptOf, schema } from './wire-rows';
import type { WireRow } from './wire-rows';

/** The moment of every test's run: a leap day, one microsecond before midnight. */
export const NOW = 1_709_251_199_999_999n;

/** A row for the evaluator from wire texts. */
export function rowFrom(wire: WireRow): Row {
  const values = new Map<string, Value>(
    Object.entries(wire).map(([id, text]) => {
      const kept = keptOf(id, text);
      return [id, kept === null ? null : valueFrom(id, kept)];
    }),
  );
  return {
    field: (id) => values.get(id) ?? null,
    parameter: () => null,
    list: () => [],
    now: NOW,
    window: () => null,
    misfit: (id) => isMisfit(id, wire[id] ?? null),
  };
}

function valueFrom(id: string, text: string): Value {
  const field = fieldById(schema, id);
  if (!field) throw new Error(`the schema has no field ${id}`);
  const read = readValue(field.type, text);
  if (!read.ok) throw new Error(`${text} is no value of ${id}: ${read.expected}`);
  return read.value;
}
