import { z } from 'zod';
import { idShape } from '../ids';
import type { FieldId } from '../fields';
import { fieldById, isNumber } from '../fields';
import { kindOf } from '../steps';
import type { TrailOutline } from './checked-trail';
import { checkedStep } from './checked-trail';

export const WATCHED_AGGREGATES = ['sum', 'distinct count'] as const;

/** A figure that is told at every step of the trail: the moment a join inflates it, or a condition loses it, stands out. */
export interface WatchedFigure {
  readonly field: FieldId;
  readonly aggregate: (typeof WATCHED_AGGREGATES)[number];
}

export const MOST_WATCHED = 3;

export const watchedShape: z.ZodType<readonly WatchedFigure[]> = z
  .array(z.strictObject({ field: idShape, aggregate: z.enum(WATCHED_AGGREGATES) }))
  .max(MOST_WATCHED);

/**
 * Under which id a watched field stands at each step that has it and where it can be told. A step that takes it from
 * several inputs has the first one's.
 */
export function watchedAt(trail: Pick<TrailOutline, 'steps'>, { field, aggregate }: WatchedFigure): ReadonlyMap<string, FieldId> {
  const ids = new Map<string, FieldId>();
  const untold = new Set<string>();
  for (const { step, schema } of trail.steps) {
    const own = kindOf(step).mints(step).includes(field) ? field : undefined;
    const came = step.inputs.flatMap((input, slot) => {
      // A step that is off gives the rows of its first input.
      const before = input === null || (step.off && slot > 0) ? undefined : ids.get(input);
      const now = before === undefined ? undefined : kindOf(step).carries(step, slot, before);
      return now === undefined ? [] : [now];
    });
    const id = own ?? came[0];
    const found = id === undefined ? undefined : fieldById(schema, id);
    if (!found) continue;
    ids.set(step.id, found.id);
    if (aggregate === 'sum' && found.addsUp !== undefined) untold.add(step.id);
  }
  return new Map([...ids].filter(([step]) => !untold.has(step)));
}

/** Whether a figure can be told of a field at a step: sums of numbers, and any values counted. */
export function canWatch(trail: Pick<TrailOutline, 'steps'>, step: string, { field, aggregate }: WatchedFigure): boolean {
  const schema = checkedStep(trail, step)?.schema;
  const found = schema && fieldById(schema, field);
  if (!found || found.type.kind === 'json') return false;
  return aggregate === 'distinct count' || (isNumber(found.type) && found.addsUp === undefined);
}
