import { commonType } from '../../expressions';
import type { Field, FieldId } from '../../fields';
import { isDay, isNumber } from '../../fields';
import type { CatalogueEntry, CatalogueRelation, JoinStep, Step, TableStep } from '../../steps';
import { checkedOf, kindOf, ofKind, partnerFields } from '../../steps';
import type { CheckedTrail } from '../../trail';
import { checkedStep } from '../../trail';
import type { JoinPlace } from './join-at';

/** Fields that could be met by, and why. Ids are those pairs are written with: the second side's are the join's own. */
export interface ProposedPairs {
  readonly pairs: readonly { readonly left: FieldId; readonly right: FieldId }[];
  readonly because: 'declared key' | 'unique on the other side' | 'alike in name';
  /** Why, written out. */
  readonly words: string;
}

/** So many proposals are worth measuring. */
export const PROPOSALS_SHOWN = 8;

/** Fields that could tell which rows meet, those with the strongest reason first. Nothing is measured here. */
export function proposedPairs(trail: CheckedTrail, { step: stepId, partner }: JoinPlace): readonly ProposedPairs[] {
  const found = checkedStep(trail, stepId);
  const lookup = checkedOf('lookup', found);
  const at = lookup?.step.partners.findIndex((each) => each.id === partner) ?? 0;
  const join = lookup ? lookup.checked.joins[at] : checkedOf('join', found);
  const second = found?.step.inputs[at + 1];
  if (!found || !join || typeof second !== 'string') return [];
  // A partner of a lookup may be met by fields of those before it.
  const left = Array.from({ length: at + 1 }, (_each, slot) => slot).flatMap((slot) => arrivingColumns(trail, found.step, slot));
  const right = columnsAt(trail, second);
  const own = new Map(join.step.fields.map((each) => [each.from, each.id]));
  const declared = declaredPairs(trail, left, right, own);
  const alike = likelyPairs(trail, join.arriving[0]?.schema.fields ?? [], join.step, right, second);
  const known = new Set(declared.map(keyOf));
  return [...declared, ...alike.filter((each) => !known.has(keyOf(each)))].slice(0, PROPOSALS_SHOWN);
}

const keyOf = ({ pairs }: ProposedPairs) =>
  pairs
    .map((each) => `${each.left}=${each.right}`)
    .sort()
    .join();

/** A field that arrives as it was read, with the column it was read from. */
interface ReadColumn {
  readonly field: FieldId;
  readonly table: TableStep;
  readonly column: string;
}

/** The fields of a step that are columns of tables, whatever steps they came through. */
function columnsAt(trail: CheckedTrail, stepId: string): readonly ReadColumn[] {
  const step = checkedStep(trail, stepId)?.step;
  if (!step) return [];
  const table = ofKind('table', step);
  if (table) return table.fields.map((each) => ({ field: each.id, table, column: each.column }));
  return step.inputs.flatMap((_input, slot) => arrivingColumns(trail, step, slot));
}

/** The columns that come in through a slot, under the ids they leave the step with. */
function arrivingColumns(trail: CheckedTrail, step: Step, slot: number): readonly ReadColumn[] {
  const input = step.inputs[slot];
  if (typeof input !== 'string') return [];
  return columnsAt(trail, input).flatMap((each) => {
    const now = kindOf(step).carries(step, slot, each.field);
    return now === undefined ? [] : [{ ...each, field: now }];
  });
}

const entryOf = ({ catalogue }: CheckedTrail, { source, schema, table }: TableStep): CatalogueEntry | undefined => {
  const known = catalogue({ kind: 'table', source, schema, table });
  return known === undefined || known === 'gone' ? undefined : known;
};

/** Foreign keys between the tables of both sides, whole, in either direction. */
function declaredPairs(
  trail: CheckedTrail,
  left: readonly ReadColumn[],
  right: readonly ReadColumn[],
  own: ReadonlyMap<FieldId, FieldId>,
): readonly ProposedPairs[] {
  const tables = [...new Set(left.map((each) => each.table))];
  const found = tables.flatMap((table) =>
    (entryOf(trail, table)?.relations ?? []).flatMap((relation): readonly ProposedPairs[] => {
      const partners = [...new Set(right.map((each) => each.table))].filter((other) => isOther(relation, table, other));
      return partners.flatMap((other) => {
        const pairs = relation.columns.flatMap((column, at) => {
          const mine = left.find((each) => each.table === table && each.column === column);
          const theirs = right.find((each) => each.table === other && each.column === relation.otherColumns[at]);
          const id = theirs && own.get(theirs.field);
          return mine && id !== undefined ? [{ left: mine.field, right: id }] : [];
        });
        if (pairs.length !== relation.columns.length || pairs.length === 0) return [];
        const [from, to] = relation.direction === 'out' ? [table.table, other.table] : [other.table, table.table];
        return [{ pairs, because: 'declared key' as const, words: `declared: ${from} refers to ${to}` }];
      });
    }),
  );
  return found.filter((each, at) => found.findIndex((other) => keyOf(other) === keyOf(each)) === at);
}

const isOther = (relation: CatalogueRelation, table: TableStep, other: TableStep) =>
  other.source === table.source && other.schema === relation.otherSchema && other.table === relation.otherTable;

/** Fields of one type where one of the other side is unique, or that are called alike. */
function likelyPairs(
  trail: CheckedTrail,
  lefts: readonly Field[],
  step: JoinStep,
  right: readonly ReadColumn[],
  second: string,
): readonly ProposedPairs[] {
  const arriving = checkedStep(trail, second);
  const partners = arriving ? partnerFields(step, arriving.schema) : [];
  const unique = new Set(arriving?.grain.keys.flatMap((key) => (key.length === 1 ? key : [])) ?? []);
  const from = new Map(step.fields.map((each) => [each.id, each.from]));
  const columns = new Map(right.map((each) => [each.field, each.column]));
  const scored = lefts.flatMap((left) =>
    partners.flatMap((partner) => {
      if (!couldMeet(left, partner)) return [];
      const origin = from.get(partner.id) ?? '';
      const isUnique = unique.has(origin);
      const likeness = likenessOf(left.name, columns.get(origin) ?? partner.name, arriving?.grain.rows ?? '');
      if (likeness === 0 && !isUnique) return [];
      const score = likeness + (isUnique ? 2 : 0);
      const because = isUnique ? ('unique on the other side' as const) : ('alike in name' as const);
      const words = [...(isUnique ? [`${partner.name} is unique`] : []), ...(likeness > 0 ? ['alike in name'] : [])].join(', ');
      return [{ score, proposal: { pairs: [{ left: left.id, right: partner.id }], because, words } }];
    }),
  );
  return scored.toSorted((a, b) => b.score - a.score).map((each) => each.proposal);
}

/** Measures and days seldom say which rows meet; texts and numbers of the same kind may. */
function couldMeet(left: Field, right: Field): boolean {
  const plain = [left, right].every(
    ({ role, type }) => role !== 'measure' && !isDay(type) && type.kind !== 'json' && type.kind !== 'yesno',
  );
  if (!plain) return false;
  return isNumber(left.type) === isNumber(right.type) && commonType(left.type, right.type) !== undefined;
}

/** 3: the same name; 2: one is the other with the table's name in front; 1: one ends with the other. */
function likenessOf(left: string, right: string, rows: string): number {
  const [a, b] = [left, right].map((each) => each.toLowerCase()) as [string, string];
  const table = rows.replace(/^rows of /, '').toLowerCase();
  const singular = table.endsWith('ies') ? `${table.slice(0, -3)}y` : table.replace(/s$/, '');
  if (a === `${singular}_${b}` || a === `${table}_${b}`) return 3;
  if (a === b) return ['id', 'name', 'code', 'title', 'note', 'notes'].includes(a) ? 1 : 3;
  return a.endsWith(`_${b}`) || b.endsWith(`_${a}`) ? 1 : 0;
}
