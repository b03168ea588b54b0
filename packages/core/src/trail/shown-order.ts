import type { ShownBy } from '../steps';
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
  const [input] = step.inputs;
  const came = own !== 'as it comes' ? own : typeof input === 'string' ? carried(trail, input, step) : [];
  return came.filter(({ field }) => schema.fields.some((each) => each.id === field));
}

function carried(trail: Pick<TrailOutline, 'steps'>, input: string, step: Parameters<typeof kindOf>[0]): readonly ShownBy[] {
  const known = checkedStep(trail, input) && shownOrder(trail, input);
  const kind = kindOf(step);
  return (known ?? []).flatMap((each) => {
    const field = kind.carries(step as never, 0, each.field);
    return field === undefined ? [] : [{ ...each, field }];
  });
}
