import type { Clause } from '../criteria';
import { clauseIds, clausesWithin, clauseUses, renameInClauses } from '../criteria';
import type { Field, FieldId } from '../fields';
import { fieldById, freeName } from '../fields';
import type { Parameter } from '../parameters';
import type { CriteriaStep, UnionStep } from '../steps';
import { checkedOf, kindOf } from '../steps';
import { applyEdit } from './apply-edits';
import type { Mint } from './build';
import { addParameter } from './build';
import type { CheckedTrail } from './checked-trail';
import { checkedStep } from './checked-trail';
import type { Definition } from './definition';
import type { Edit } from './edits';
import { placeAt } from './places';

/** A criteria step written for the other inputs of a union, and what could not be. */
export interface SameCriteria {
  readonly edits: readonly Edit[];
  /** How many clauses ask about something an input has no counterpart of, by what its rows are called. */
  readonly leftOut: readonly { readonly rows: string; readonly clauses: number }[];
}

/**
 * The same criteria before every other input of the union a step leads to, through the fields that are lined up there:
 * with its parameters, or with new ones for each input. Undefined where it leads to no union.
 */
export function sameCriteriaEdits(
  mint: Mint,
  trail: CheckedTrail,
  stepId: string,
  parameters: 'its own' | 'new',
): SameCriteria | undefined {
  const criteria = checkedOf('criteria', checkedStep(trail, stepId));
  const found =
    criteria &&
    unionBehind(
      trail,
      stepId,
      criteria.schema.fields.map((each) => each.id),
    );
  if (!criteria || !found) return undefined;
  const { union, slot, ids } = found;
  const edits: Edit[] = [];
  const leftOut: { rows: string; clauses: number }[] = [];
  let definition: Definition = trail.definition;
  const take = (edit: Edit) => {
    edits.push(edit);
    definition = applyEdit(definition, edit);
  };
  union.step.inputs.forEach((input, other) => {
    if (input === null || other === slot) return;
    const arriving = union.arriving[other];
    const partner = (id: FieldId): Field | undefined => {
      const stacked = union.step.fields.find((each) => each.from[slot] === ids.get(id));
      return arriving && stacked && fieldById(arriving.schema, stacked.from[other] ?? '');
    };
    const all = criteria.step.clauses;
    const kept = all.filter((clause) => fieldsOf(clause, definition.parameters).every((id) => partner(id)));
    const { rows = '' } = arriving?.grain ?? {};
    if (kept.length < all.length) leftOut.push({ rows, clauses: all.length - kept.length });
    if (kept.length === 0) return;
    const fresh = parameters === 'new' ? freshParameters(mint, definition, kept) : new Map<string, Parameter>();
    for (const each of fresh.values()) take(addParameter(definition, each));
    const clauses = kept.map((clause) => rewritten(clause, definition.parameters, partner, fresh, mint));
    const step: CriteriaStep = { ...criteria.step, id: mint(), inputs: [input], clauses };
    const at = definition.steps.findIndex((each) => each.id === input) + 1;
    take({ kind: 'add step', step, at: placeAt(definition.steps, at), heirs: [{ step: union.step.id, slot: other, instead: input }] });
  });
  return { edits, leftOut };
}

/** The union a step's rows come to on their lane, in which slot, and under which ids fields arrive there. */
function unionBehind(trail: CheckedTrail, stepId: string, fields: readonly FieldId[]) {
  let at = stepId;
  let ids = new Map(fields.map((id) => [id, id]));
  for (const { step } of trail.steps) {
    const slot = step.inputs.indexOf(at);
    if (slot < 0) continue;
    const union = checkedOf('union', checkedStep(trail, step.id));
    if (union) return { union, slot, ids };
    if (slot > 0) continue;
    ids = new Map(
      [...ids].flatMap(([id, now]) => {
        const carried = kindOf(step).carries(step, 0, now);
        return carried === undefined ? [] : [[id, carried] as const];
      }),
    );
    at = step.id;
  }
  return undefined;
}

/** Whether a step leads to a union with other inputs, so that its criteria can be written for them. */
export function leadsToUnion(trail: CheckedTrail, stepId: string): UnionStep | undefined {
  return unionBehind(trail, stepId, [])?.union.step;
}

const fieldsOf = (clause: Clause, parameters: readonly Parameter[]): readonly FieldId[] =>
  clauseUses([clause], parameters).flatMap(({ kind, id }) => (kind === 'field' ? [id] : []));

function freshParameters(mint: Mint, { parameters }: Definition, clauses: readonly Clause[]): ReadonlyMap<string, Parameter> {
  const used = new Set(clauseUses(clauses, parameters).flatMap(({ kind, id }) => (kind === 'parameter' ? [id] : [])));
  const names = new Set(parameters.map((each) => each.name));
  return new Map(
    parameters.flatMap((each) => {
      if (!used.has(each.id)) return [];
      const name = freeName(each.name, names);
      names.add(name);
      return [[each.id, { ...each, id: mint(), name }] as const];
    }),
  );
}

/** A clause with the other input's fields, and with other parameters where there are some, in ids and in words. */
function rewritten(
  clause: Clause,
  parameters: readonly Parameter[],
  partner: (id: FieldId) => Field | undefined,
  fresh: ReadonlyMap<string, Parameter>,
  mint: Mint,
): Clause {
  const named = [
    ...fieldsOf(clause, parameters).flatMap((id) => {
      const name = partner(id)?.name;
      return name === undefined ? [] : [{ kind: 'field' as const, id, name }];
    }),
    ...[...fresh].map(([id, { name }]) => ({ kind: 'parameter' as const, id, name })),
  ];
  const [worded = clause] = named.reduce<readonly Clause[]>((done, { kind, id, name }) => renameInClauses(done, kind, id, name), [clause]);
  const own = new Map(clausesWithin(clause).map(({ id }) => [id, mint()]));
  const [made = worded] = clauseIds([worded], (id) => own.get(id) ?? partner(id)?.id ?? fresh.get(id)?.id ?? id);
  return made;
}
