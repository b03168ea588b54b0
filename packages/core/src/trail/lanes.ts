import type { Step } from '../steps';
import { kindOf } from '../steps';
import type { CheckedTrail } from './checked-trail';
import { subTrail } from './sub-trail';

/** A line of the trail as it is drawn: which lane the step stands on, and how lanes run past it and into it. */
export interface LaneLine {
  readonly step: string;
  /** The lane it stands on, counted from the left edge. */
  readonly lane: number;
  /** The sources it reads itself: their lanes begin here. */
  readonly begins: readonly string[];
  /** The source its lane came from first; undefined where none was read. */
  readonly source: string | undefined;
  /** Its own lane comes down from the line above. */
  readonly comesDown: boolean;
  /** Its own lane goes on to the line below. */
  readonly goesOn: boolean;
  /** Other lanes it takes rows from; those that end here, and those that go on to another step as well. */
  readonly joins: readonly { readonly lane: number; readonly source: string | undefined; readonly goesOn: boolean }[];
  /** Lanes that run past it. */
  readonly passes: readonly { readonly lane: number; readonly source: string | undefined }[];
}

/** A lane on its way down: whose rows it carries, and which steps still take them. */
interface Running {
  readonly lane: number;
  readonly step: string;
  readonly source: string | undefined;
  readonly takers: Set<string>;
}

/**
 * The steps in the order they are shown, each with its lanes. What the result stands on comes first, one input's
 * steps after the other's, so that a lane runs unbroken until it meets another; the result stands behind all it is
 * made of, and steps that lead nowhere yet stand below.
 */
export function lanesOf(trail: Pick<CheckedTrail, 'definition'>): readonly LaneLine[] {
  const shown = inShownOrder(trail.definition);
  const takersOf = new Map(
    shown.map(({ id }) => [id, new Set(shown.flatMap((each) => (each.inputs.includes(id) ? [each.id] : [])))] as const),
  );
  let running: readonly Running[] = [];
  return shown.map((step) => {
    const taken = [...new Set(step.inputs)].flatMap((id) => running.find((each) => each.step === id) ?? []);
    const [first] = taken;
    const left = running.map((each) => ({ ...each, takers: without(each.takers, taken.includes(each) ? step.id : '') }));
    const still = left.filter((each) => each.takers.size > 0);
    // A lane others still take rows from goes on by itself, and the step gets one of its own.
    const own = first && !still.some((each) => each.step === first.step) ? first.lane : freeLane(still);
    // A script that goes on in the session of another begins no lane of its own.
    const begins = first ? [] : kindOf(step).sources(step, () => []);
    const source = first?.source ?? begins[0];
    const takers = takersOf.get(step.id) ?? new Set<string>();
    const goesOn = takers.size > 0;
    const line: LaneLine = {
      step: step.id,
      lane: own,
      begins,
      source,
      comesDown: taken.some((each) => each.lane === own),
      goesOn,
      joins: taken
        .filter((each) => each.lane !== own)
        .map((each) => ({ lane: each.lane, source: each.source, goesOn: still.some((other) => other.step === each.step) })),
      passes: still
        .filter((each) => !taken.some((other) => other.step === each.step))
        .map((each) => ({ lane: each.lane, source: each.source })),
    };
    running = goesOn ? [...still, { lane: own, step: step.id, source, takers: new Set(takers) }] : still;
    return line;
  });
}

const without = (takers: ReadonlySet<string>, id: string): Set<string> => new Set([...takers].filter((each) => each !== id));

function freeLane(running: readonly Running[]): number {
  const taken = new Set(running.map((each) => each.lane));
  for (let lane = 0; ; lane++) if (!taken.has(lane)) return lane;
}

/** The steps as they are shown: behind the result's inputs in the order of its slots, then what leads nowhere. */
export function inShownOrder(definition: CheckedTrail['definition']): readonly Step[] {
  const byId = new Map(definition.steps.map((each) => [each.id, each]));
  const shown = new Map<string, Step>();
  const visit = (id: string | null): void => {
    const step = id === null || shown.has(id) ? undefined : byId.get(id);
    if (!step) return;
    step.inputs.forEach(visit);
    shown.set(step.id, step);
  };
  visit(definition.result);
  for (const { id } of definition.steps) if (!shown.has(id)) for (const step of subTrail(definition, id)) visit(step.id);
  return [...shown.values()];
}
