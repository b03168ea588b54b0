import fc from 'fast-check';
import type { Arriving, ExpressionText, Field, Step } from '../../src';
import { checkedStep, checkTrail, emptyDefinition, isKept, NOTHING_ARRIVES, writtenName } from '../../src';

/** What generated steps know of the steps before them: what they give, and how it is written. */

/** The fields of whole numbers a step gives, by the ids a step can ask with. */
export function numbersOf(step: Step, all: readonly Step[]): readonly string[] {
  if (step.kind === 'table') return step.fields.flatMap((each) => (each.type.kind === 'whole' ? [each.id] : []));
  const [first] = step.inputs;
  const arriving = all.find((each) => each.id === first);
  const passed = arriving ? numbersOf(arriving, all) : [];
  if (step.kind === 'calculate') return [...passed, ...step.fields.map((each) => each.id)];
  if (step.kind === 'criteria') return passed;
  if (step.kind === 'arrange') return passed.filter((each) => isKept(step, each));
  if (step.kind === 'unpivot') {
    const away = new Set(step.lines.flatMap(({ from }) => from));
    return [...passed.filter((each) => !away.has(each)), ...step.values.map((each) => each.id)];
  }
  if (step.kind === 'union') {
    const theirs = step.inputs.map((input) => numbersOf(all.find((each) => each.id === input) as Step, all));
    return step.fields.flatMap(({ id, from }) => (from.some((each, slot) => each !== null && theirs[slot]?.includes(each)) ? [id] : []));
  }
  if (step.kind === 'summarise') {
    const numbers = step.keys.filter((each) => each.expression.refs.some((ref) => passed.includes(ref.id)));
    return [...numbers, ...step.values.filter(({ aggregate }) => aggregate !== 'share' && aggregate !== 'joined')].map((each) => each.id);
  }
  if (step.kind === 'line sheet') return [step.names.line.id, step.names.level.id];
  if (step.kind === 'lookup')
    return step.partners.reduce<readonly string[]>((ids, each, at) => {
      const partner = all.find(({ id }) => id === step.inputs[at + 1]);
      const theirs = partner ? numbersOf(partner, all) : [];
      return [...ids, ...each.fields.flatMap(({ id, from }) => (theirs.includes(from) ? [id] : []))];
    }, passed);
  if (step.kind === 'join') {
    const partner = all.find((each) => each.id === step.inputs[1]);
    const theirs = partner ? numbersOf(partner, all) : [];
    return [...passed, ...step.fields.flatMap(({ id, from }) => (theirs.includes(from) ? [id] : []))];
  }
  return [...passed, ...(step as unknown as { brought: readonly { id: string }[] }).brought.map((each) => each.id)];
}

/** What a step gives the next one. */
export function arrivingFrom(all: readonly Step[], on: Step): (step: Step) => Arriving {
  const trail = checkTrail({ ...emptyDefinition(''), steps: all, result: on.id });
  return (step) => checkedStep(trail, step.id) ?? NOTHING_ARRIVES;
}

export const written = ({ id, name }: Field): ExpressionText => {
  const typed = writtenName('field', name);
  return { text: typed, refs: [{ kind: 'field', id, from: 0, to: typed.length }] };
};

export function rarely(oneIn: number): fc.Arbitrary<boolean> {
  return fc.nat(oneIn - 1).map((each) => each === 0);
}
