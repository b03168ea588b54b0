import type { ExpressionText } from '../expressions';
import { fieldText } from '../expressions';
import { fieldById, isNumber } from '../fields';
import type { Arriving, JoinField, RowWords, SummariseStep, SummaryKey, SummaryValue } from '../steps';
import { checkedOf, NOTHING_ARRIVES, summariseStep } from '../steps';
import type { Mint } from './build';
import type { CheckedTrail } from './checked-trail';
import { checkedStep } from './checked-trail';
import type { Edit } from './edits';
import { placeAt } from './places';

/**
 * Puts a summary in front of a join's second side, so that a row meets one partner: one row per what the pairs ask of
 * it, with sums of the measures that are taken. Other taken fields are left out, since nothing says which of several
 * values is meant. Undefined where a pair asks for more than plain fields.
 */
export function summariseFirstEdits(
  mint: Mint,
  trail: CheckedTrail,
  joinId: string,
): { readonly edits: readonly Edit[]; readonly step: string } | undefined {
  const join = checkedOf('join', checkedStep(trail, joinId));
  const partner = join?.step.inputs[1];
  if (!join || typeof partner !== 'string') return undefined;
  const schema = join.arriving[1]?.schema ?? { fields: [] };
  const from = (id: string) => join.step.fields.find((each) => each.id === id);
  const asked = join.checked.pairs.map((each) => each.fields && from(each.fields.right));
  if (asked.length === 0 || asked.some((each) => each === undefined)) return undefined;
  const keyed = [...new Set(asked.flatMap((each) => each ?? []))];
  const fieldOf = (each: JoinField) => fieldById(schema, each.from);
  const keys = keyed.flatMap((each): readonly (readonly [JoinField, SummaryKey])[] => {
    const field = fieldOf(each);
    return field ? [[each, { id: mint(), name: field.name, expression: fieldText(field) }]] : [];
  });
  const summed = join.step.fields.filter((each) => join.step.taken.includes(each.id) && !keyed.includes(each));
  const values = summed.flatMap((each): readonly (readonly [JoinField, SummaryValue])[] => {
    const field = fieldOf(each);
    if (!field || field.role !== 'measure' || !isNumber(field.type)) return [];
    return [[each, { id: mint(), name: field.name, aggregate: 'sum', expression: fieldText(field), among: NOTHING, order: NOTHING }]];
  });
  const summary: SummariseStep = {
    ...summariseStep(mint, partner),
    keys: keys.map(([, key]) => key),
    values: values.map(([, value]) => value),
  };
  const kept: readonly JoinField[] = [...keys, ...values].map(([each, { id }]) => ({ ...each, from: id }));
  const { steps } = trail.definition;
  const at = steps.findIndex((each) => each.id === joinId);
  const taken = join.step.taken.filter((id) => kept.some((each) => each.id === id));
  return {
    step: summary.id,
    edits: [
      { kind: 'add step', step: summary, at: placeAt(steps, at), heirs: [{ step: joinId, slot: 1, instead: partner }] },
      { kind: 'set step', step: joinId, property: 'fields', from: join.step.fields, to: kept },
      { kind: 'set step', step: joinId, property: 'taken', from: join.step.taken, to: taken },
      // What a row meets is still called what it was, now in sum.
      ...(join.step.role ? [] : [{ kind: 'set step' as const, step: joinId, property: 'role', from: null, to: wordsOf(join.arriving[1]) }]),
    ],
  };
}

const wordsOf = (partners: Arriving | undefined): RowWords | null => {
  const { row, rows } = partners?.grain ?? NOTHING_ARRIVES.grain;
  return row === '' ? null : { row, rows };
};

const NOTHING: ExpressionText = { text: '', refs: [] };
