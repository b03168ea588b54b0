import type { FieldId } from '../fields';
import type { FieldOrigin } from '../steps';
import { kindOf } from '../steps';
import type { CheckedTrail, TrailOutline } from './checked-trail';

/** Where a field comes from, and what it goes into. */
export interface Lineage {
  /** Columns of sources its values are made of. */
  readonly columns: readonly ({ readonly step: string } & NonNullable<FieldOrigin['column']>)[];
  /** Steps it is made in or of, by their titles, in the order of the trail. */
  readonly madeIn: readonly { readonly step: string; readonly title: string; readonly how: string }[];
  /** Steps that ask about it or calculate with it. */
  readonly usedIn: readonly { readonly step: string; readonly title: string }[];
}

/** Computed from the trail, and never used as a field's identity. */
export function lineageOf(trail: CheckedTrail, id: FieldId): Lineage {
  const origins = originsOf(trail, id);
  const { parameters } = trail.definition;
  const made = trail.steps.flatMap(({ step, title }) => {
    const own = kindOf(step)
      .mints(step)
      .flatMap((each) => origins.get(each) ?? []);
    return own.length > 0 ? [{ step: step.id, title, own }] : [];
  });
  return {
    columns: made.flatMap(({ step, own }) => own.flatMap(({ column }) => (column ? [{ step, ...column }] : []))),
    madeIn: made.flatMap(({ step, title, own }) => {
      const read = own.flatMap((each) => each.column?.column ?? []);
      const hows = own.filter((each) => !each.column).map((each) => each.how);
      return [...(read.length > 0 ? [`reads ${read.join(', ')}`] : []), ...hows].map((how) => ({ step, title, how }));
    }),
    usedIn: trail.steps.flatMap(({ step, title }) => {
      const uses = kindOf(step).uses(step, parameters);
      return uses.some((use) => use.kind === 'field' && use.id === id) ? [{ step: step.id, title }] : [];
    }),
  };
}

/** The field and all it is made of, each with its origin. */
export function originsOf({ steps }: TrailOutline, id: FieldId): ReadonlyMap<FieldId, FieldOrigin> {
  const minting = new Map(
    steps.flatMap(({ step }) =>
      kindOf(step)
        .mints(step)
        .map((each) => [each, step] as const),
    ),
  );
  const found = new Map<FieldId, FieldOrigin>();
  const visit = (field: FieldId): void => {
    const step = minting.get(field);
    const origin = found.has(field) || !step ? undefined : kindOf(step).origin(step, field);
    if (!origin) return;
    found.set(field, origin);
    origin.fields.forEach(visit);
  };
  visit(id);
  return found;
}
