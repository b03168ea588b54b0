import { entryWithIds } from '../sheet';
import { layoutWithIds } from '../grouping';
import { kindOf } from '../steps';
import type { Mint } from './build';
import type { Definition } from './definition';

/**
 * The same definition with every id minted anew, so that a dataset can stand on its own copy without two fields of
 * one id meeting. Ids of sources and of other datasets stay.
 */
export function withFreshIds(definition: Definition, mint: Mint): Definition {
  const fresh = new Map<string, string>();
  const idOf = (id: string) => {
    const known = fresh.get(id) ?? mint();
    fresh.set(id, known);
    return known;
  };
  const field = <T extends { readonly field: string }>(each: T): T => ({ ...each, field: idOf(each.field) });
  const { sheet, proof, brief, parameters, steps, order, result } = definition;
  return {
    ...definition,
    steps: steps.map((step) => kindOf(step).withIds(step, idOf)),
    result: result === null ? null : idOf(result),
    parameters: parameters.map((each) => {
      const { choices } = each;
      const own = { ...each, id: idOf(each.id) };
      if (!choices || choices.from === 'typed') return own;
      const narrowedBy = choices.narrowedBy.map((by) => ({
        ...by,
        parameter: idOf(by.parameter),
        ...(choices.from === 'field' ? { field: idOf(by.field) } : {}),
      }));
      if (choices.from !== 'field') return { ...own, choices: { ...choices, narrowedBy } };
      const label = choices.label === null ? null : idOf(choices.label);
      return { ...own, choices: { ...choices, field: idOf(choices.field), label, narrowedBy } };
    }),
    order: order.map(idOf),
    ...(definition.watched ? { watched: definition.watched.map(field) } : {}),
    sheet: sheet
      .map(field)
      .map((each) => entryWithIds(each, idOf))
      .toSorted((a, b) => (a.field < b.field ? -1 : 1)),
    brief: { ...brief, items: brief.items.map((each) => ({ ...each, id: idOf(each.id) })) },
    proof: layoutWithIds(proof, idOf),
  };
}
