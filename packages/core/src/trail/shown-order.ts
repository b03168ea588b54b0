import type { ShownBy, Step } from '../steps';
import { kindOf } from '../steps';
import type { TrailOutline } from './checked-trail';
import { checkedStep } from './checked-trail';

/** The order the rows after a step are shown in: of the nearest step before it that sorts, where nothing between makes rows anew. */
export function shownOrder(trail: Pick<TrailOutline, 'steps'>, stepId: string): readonly ShownBy[] {
  const checked = checkedStep(trail, stepId);
  if (!checked) return [];
  const { step, schema } = checked;
  const kind = kindOf(step);
  const own = step.off ? 'as it comes' : kind.order?.(step);
  if (own === undefined) return [];
  const came = own === 'as it comes' ? carried(trail, step) : own;
  return came.filter(({ field }) => schema.fields.some((each) => each.id === field));
}

/** The order of a step's first input, by the ids its fields have behind the step. */
function carried(trail: Pick<TrailOutline, 'steps'>, step: Step): readonly ShownBy[] {
  const [input] = step.inputs;
  return (input ? shownOrder(trail, input) : []).flatMap((each) => {
    const field = kindOf(step).carries(step, 0, each.field);
    return field === undefined ? [] : [{ ...each, field }];
  });
}
