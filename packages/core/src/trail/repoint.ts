import type { FieldId } from '../fields';
import { recogniseRole } from '../fields';
import type { ReadTable, TableField, TableStep } from '../steps';
import { keysOf, kindOf } from '../steps';
import type { Definition } from './definition';
import type { Edit } from './edits';
import type { Mint } from './build';
import { pointEdits } from './pointed';

/** For each field of a table step the column of another table it reads from then; null where there is none. */
export type ColumnMap = ReadonlyMap<FieldId, string | null>;

/** The columns of another table that suit by name, whatever its case. */
export function columnsByName(step: TableStep, described: ReadTable): ColumnMap {
  return new Map(
    step.fields.map(({ id, column }) => {
      const exact = described.columns.find(({ name }) => name === column);
      const loose = described.columns.filter(({ name }) => name.toLowerCase() === column.toLowerCase());
      return [id, exact?.name ?? (loose.length === 1 ? (loose[0]?.name ?? null) : null)];
    }),
  );
}

/**
 * Lets a table step read another table: fields keep their ids, so that what uses them stands, and read the columns they
 * are mapped to. A field without a partner goes on as it was and says that its column is gone; columns nobody mapped
 * become fields that are not taken.
 */
export function repointEdits(
  definition: Pick<Definition, 'steps' | 'parameters'>,
  mint: Mint,
  step: TableStep,
  source: string,
  described: ReadTable,
  map: ColumnMap,
): readonly Edit[] {
  const columns = new Map(described.columns.map((each) => [each.name, each]));
  const read = (id: string, name: string): TableField | undefined => {
    const column = columns.get(name);
    const { sourceType, type, looseText } = column ?? {};
    if (!column || sourceType === undefined || !type || looseText === undefined) return undefined;
    return { id, column: name, sourceType, type, role: recogniseRole(column), looseText };
  };
  const kept = step.fields.map((field) => read(field.id, map.get(field.id) ?? '') ?? field);
  const used = new Set([...map.values()]);
  const fresh = described.columns.flatMap(({ name }) => (used.has(name) ? [] : (read(mint(), name) ?? [])));
  const fields = [...kept, ...fresh];
  const set = (property: 'schema' | 'table' | 'fields' | 'keys', from: unknown, to: unknown): readonly Edit[] =>
    from === to ? [] : [{ kind: 'set step', step: step.id, property, from, to }];
  return [
    ...pointEdits(definition, step, source),
    ...set('schema', step.schema, described.schema),
    ...set('table', step.table, described.name),
    ...set('fields', step.fields, fields),
    ...set('keys', step.keys, keysOf(fields, described)),
  ];
}

/** The steps that use any of some fields, by what they ask about or hand on under another id. */
export function usersOf({ steps, parameters }: Pick<Definition, 'steps' | 'parameters'>, fields: ReadonlySet<FieldId>): readonly string[] {
  const known = new Set(fields);
  return steps.flatMap((step) => {
    // A join asks for fields of its second side under the ids they have behind it.
    step.inputs.forEach((_input, slot) => {
      for (const id of [...known]) {
        const now = kindOf(step).carries(step, slot, id);
        if (now !== undefined) known.add(now);
      }
    });
    const uses = kindOf(step)
      .uses(step, parameters)
      .some(({ kind, id }) => kind === 'field' && known.has(id));
    return uses ? [step.id] : [];
  });
}
