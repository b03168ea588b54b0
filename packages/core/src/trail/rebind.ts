import { layoutWithIds } from '../grouping';
import { entryWithIds } from '../sheet';
import type { FieldId } from '../fields';
import type { Step } from '../steps';
import { kindOf } from '../steps';
import { standingOn } from './sub-trail';
import type { Definition } from './definition';
import type { Edit, Rebound } from './edits';
import { equal } from './equal';

/** A field that takes another one's place where that is used. */
export interface Exchange {
  readonly from: FieldId;
  readonly to: FieldId;
  /** What the new field is called, for what is written. */
  readonly name: string;
}

/**
 * The edit that exchanges fields in everything that stands on a step, itself included, and, where that is handed
 * over, in the field sheet, the proof and the choices of parameters. `lost` are the fields that found no partner:
 * what uses them stays as it is and says so. Undefined where nothing uses any of the fields.
 */
export function rebindEdit(
  definition: Definition,
  stepId: string,
  map: readonly Exchange[],
  lost: readonly FieldId[],
): (Edit & { kind: 'rebind' }) | undefined {
  const to = new Map(map.map((each) => [each.from, each.to]));
  const idOf = (id: string) => to.get(id) ?? id;
  const steps = standingOn(definition, stepId);
  const parts: Rebound[] = [
    ...steps.map((step) => ({ part: 'step', id: step.id, from: step, to: exchanged(step, map, idOf) }) as const),
    ...(steps.some((each) => each.id === definition.result) ? reportParts(definition, idOf) : []),
  ].filter((each) => !equal(each.from, each.to));
  return parts.length === 0 ? undefined : { kind: 'rebind', map: map.map(({ from, to: now }) => ({ from, to: now })), lost, parts };
}

/** Only what the step mentions is exchanged: the fields it mints, its items and inputs are its own. */
function exchanged(step: Step, map: readonly Exchange[], idOf: (id: string) => string): Step {
  const kind = kindOf(step);
  const own = new Set(kind.mints(step));
  const renamed = map.reduce((done: Step, { from, name }) => (own.has(from) ? done : kind.renamed(done, 'field', from, name)), step);
  return kind.withIds(renamed, (id) => (own.has(id) ? id : idOf(id)));
}

function reportParts(definition: Definition, idOf: (id: string) => string): readonly Rebound[] {
  const { sheet, order, proof, parameters } = definition;
  const field = <T extends { readonly field: FieldId }>(each: T): T => ({ ...each, field: idOf(each.field) });
  return [
    {
      part: 'sheet',
      from: sheet,
      to: sheet
        .map(field)
        .map((each) => entryWithIds(each, idOf))
        .toSorted((a, b) => (a.field < b.field ? -1 : 1)),
    },
    { part: 'order', from: order, to: order.map(idOf) },
    { part: 'proof', from: proof, to: layoutWithIds(proof, idOf) },
    {
      part: 'parameters',
      from: parameters,
      to: parameters.map((each) => {
        const { choices } = each;
        if (!choices || choices.from !== 'field') return each;
        const label = choices.label === null ? null : idOf(choices.label);
        return { ...each, choices: { ...choices, field: idOf(choices.field), label, narrowedBy: choices.narrowedBy.map(field) } };
      }),
    },
  ];
}
