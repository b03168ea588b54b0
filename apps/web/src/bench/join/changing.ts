import type { Edit, JoinPair, JoinStep, LookupPartner, LookupStep } from '@cendra/core';
import { addItem, placeAtEnd, removeItem, setItem } from '@cendra/core';

type JoinProperty = 'keeps' | 'everyPair' | 'role' | 'fields' | 'taken' | 'one' | 'accepted';

/** How parts of a join are changed, whether it is a step of its own or a partner of a lookup. Each is one edit, and undone as one. */
export interface JoinChanging {
  addPairs(pairs: readonly JoinPair[]): void;
  putPair(from: JoinPair, to: JoinPair): void;
  removePair(pair: JoinPair): void;
  set<P extends JoinProperty>(property: P, to: JoinStep[P]): void;
  /** What the partners are called, and their fields as they are named then. */
  setRole(role: JoinStep['role'], fields: JoinStep['fields']): void;
}

type Apply = (...edits: Edit[]) => void;

export const changingJoin = (step: JoinStep, edit: Apply): JoinChanging => ({
  addPairs: (pairs) => {
    const behind = (at: number) => (at === 0 ? placeAtEnd(step.pairs) : { after: pairs[at - 1]?.id ?? null, before: null });
    edit(...pairs.map((item, at) => ({ ...addItem(step, 'pairs', item, step.pairs.length), at: behind(at) })));
  },
  putPair: (from, to) => edit(setItem(step, 'pairs', from, to)),
  removePair: (pair) => edit(removeItem(step, 'pairs', pair)),
  set: (property, to) => edit({ kind: 'set step', step: step.id, property, from: step[property], to }),
  setRole: (role, fields) =>
    edit(
      { kind: 'set step', step: step.id, property: 'role', from: step.role, to: role },
      ...(fields === step.fields
        ? []
        : [{ kind: 'set step' as const, step: step.id, property: 'fields' as const, from: step.fields, to: fields }]),
    ),
});

export function changingPartner(step: LookupStep, partner: LookupPartner, edit: Apply): JoinChanging {
  const put = (to: Partial<LookupPartner>) => edit(setItem(step, 'partners', partner, { ...partner, ...to }));
  return {
    addPairs: (pairs) => put({ pairs: [...partner.pairs, ...pairs] }),
    putPair: (from, to) => put({ pairs: partner.pairs.map((each) => (each === from ? to : each)) }),
    removePair: (pair) => put({ pairs: partner.pairs.filter((each) => each !== pair) }),
    set: (property, to) => put({ [property]: to }),
    setRole: (role, fields) => put({ role, fields }),
  };
}
