import { fieldOfText } from '../expressions';
import type { FieldId } from '../fields';
import { fieldById } from '../fields';
import { ofKind } from '../steps';
import type { TrailOutline } from './checked-trail';
import { originsOf } from './lineage';

/** A column of a table, whose values a field may have. */
export interface ColumnAt {
  readonly step: string;
  readonly field: FieldId;
  /** What the column's field and its step are called. */
  readonly name: string;
  readonly title: string;
}

/**
 * The columns of tables a field's values are, and those they are compared with where tables meet: there may be values in them
 * of which no row is left. Nearest first; of another type, or calculated, there is none.
 */
export function columnsOfValues(trail: TrailOutline, id: FieldId): readonly ColumnAt[] {
  const own = [...originsOf(trail, id).keys()];
  const met = trail.steps.flatMap(({ step }) => {
    const pairs = ofKind('join', step)?.pairs ?? [];
    return pairs.flatMap((pair): readonly FieldId[] => {
      if (pair.kind !== 'compared' || pair.comparison !== '=') return [];
      const [left, right] = [fieldOfText(pair.left), fieldOfText(pair.right)];
      if (left === undefined || right === undefined) return [];
      return own.includes(left) ? [right] : own.includes(right) ? [left] : [];
    });
  });
  const all = new Set([...own, ...met.flatMap((each) => [...originsOf(trail, each).keys()])]);
  const type = trail.steps.flatMap(({ schema }) => fieldById(schema, id) ?? [])[0]?.type;
  return trail.steps.flatMap(({ step, schema, title }) =>
    step.kind === 'table'
      ? schema.fields.flatMap((each) =>
          all.has(each.id) && each.type.kind === type?.kind ? [{ step: step.id, field: each.id, name: each.name, title }] : [],
        )
      : [],
  );
}
