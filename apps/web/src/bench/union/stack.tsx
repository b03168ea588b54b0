import type { Partner } from '@cendra/core';
import { addStepAfter, checkedStep, NOTHING_ARRIVES, partnerInput, unionStep } from '@cendra/core';
import { PartnerDialog } from '../join/bring-in';
import { mint } from '../mint';
import type { ChoosingProps } from '../step-kind';

/** Puts the rows of a table, or of another step, below the selected step's. */
export function Stack({ bench, after, onDone }: ChoosingProps) {
  const { trail, catalogue } = bench;
  const { definition } = trail;
  const at = definition.steps.findIndex((each) => each.id === after.step.id);
  const choose = (partner: Partner) => {
    const { edits: table, step: second, made, arriving } = partnerInput(definition, catalogue, partner, at);
    const own = checkedStep(trail, after.step.id) ?? NOTHING_ARRIVES;
    const step = unionStep(mint, [after.step.id, second], [own, arriving]);
    bench.edit(...table, addStepAfter(made, after.step.id, step));
    bench.select(step.id);
  };
  // Only what stands before the selected step can be put below it.
  const before = { ...bench, trail: { ...trail, steps: trail.steps.slice(0, at) } };
  return (
    <PartnerDialog bench={before} after={after} title={`Below ${after.grain.rows || 'these rows'} …`} onChoose={choose} onDone={onDone} />
  );
}
