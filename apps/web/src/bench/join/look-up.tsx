import type { CheckedOf, Edit, LookupStep, Partner } from '@cendra/core';
import { addItem, applyEdits, checkedStep, checkTrail, lookupPartner, NOTHING_ARRIVES, placeAt, removeItem } from '@cendra/core';
import { mint } from '../mint';
import type { Bench } from '../use-bench';
import { PartnerDialog } from './bring-in';

interface LookUpProps {
  readonly bench: Bench;
  readonly lookup: CheckedOf<'lookup'>;
  onDone(): void;
}

/** Names one more partner of a lookup. */
export function LookUp({ bench, lookup, onDone }: LookUpProps) {
  const { trail, catalogue, edit } = bench;
  const { step } = lookup;
  const { steps } = trail.definition;
  const at = steps.findIndex((each) => each.id === step.id);
  const choose = (partner: Partner) => {
    const table: readonly Edit[] = 'table' in partner ? [{ kind: 'add step', step: partner.table, at: placeAt(steps, at), heirs: [] }] : [];
    const made = applyEdits(trail.definition, table);
    const second = 'table' in partner ? partner.table.id : partner.step;
    const arriving = checkedStep(checkTrail(made, catalogue), second) ?? NOTHING_ARRIVES;
    const called = 'table' in partner ? partner.table.table : arriving.grain.rows.replace(/^rows of /, '');
    const item = lookupPartner(mint, [{ schema: lookup.schema, grain: lookup.grain }, arriving], called);
    const slot = step.partners.length + 1;
    edit(
      ...table,
      { kind: 'set input', step: step.id, slot, from: step.inputs[slot] ?? null, to: second },
      addItem(step, 'partners', item, step.partners.length),
    );
  };
  // Only what stands before the lookup can be looked up.
  const before = { ...bench, trail: { ...trail, steps: trail.steps.filter((_each, index) => index < at) } };
  return (
    <PartnerDialog
      bench={before}
      after={lookup}
      title={`Each ${lookup.grain.row || 'row'} finds one …`}
      onChoose={choose}
      onDone={onDone}
    />
  );
}

/** The edits that take a partner out: those behind it move up a slot. */
export function withoutPartner(step: LookupStep, at: number): readonly Edit[] {
  const partner = step.partners[at];
  if (!partner) return [];
  const inputs = step.inputs.slice(at + 2);
  const moved = [...inputs, null].map((to, index): Edit => {
    const slot = at + 1 + index;
    return { kind: 'set input', step: step.id, slot, from: step.inputs[slot] ?? null, to };
  });
  return [removeItem(step, 'partners', partner), ...moved];
}
