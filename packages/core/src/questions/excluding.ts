import type { Expression } from '../expressions';
import { all, fieldsUsed, isTrue, not } from '../expressions';
import { fieldById } from '../fields';
import type { ActiveClause } from '../criteria';
import { passes, passing } from '../criteria';
import type { Column, Relation } from '../sql';
import { shared } from '../sql';
import type { Questioning } from '../steps';
import { knownBy } from '../steps';
import type { CriteriaAt } from './active-clauses';
import { outcomeGroups } from './active-clauses';
import type { OutcomeGroup } from './outcomes';

/** A set of clauses no row passes together and from which none can be left out. */
export interface Excluding {
  readonly clauses: readonly string[];
  /** No smaller set exists; else only that none of these can be left out. */
  readonly smallest: boolean;
  /** For each clause a row that passes all others of the set and fails this one. */
  readonly examples: readonly ExcludingExample[];
}

export interface ExcludingExample {
  readonly clause: string;
  /** The fields the set asks about, with the row's values in wire form. */
  readonly values: readonly { readonly name: string; readonly value: string | null }[];
}

/** Up to so many clauses every set can be tried. */
export const TRIED_CLAUSES = 12;

/** Why no row is left of a step whose clauses all have to hold, or none of which may. */
export function* excluding(asked: CriteriaAt): Questioning<Excluding | undefined> {
  const top = asked.lines.filter((each) => each.line.within.length === 0);
  const smallest = top.length <= TRIED_CLAUSES;
  const found = smallest ? yield* smallestSet(asked, top) : yield* irreducibleSet(asked, top);
  if (!found) return undefined;
  const examples: ExcludingExample[] = [];
  for (const each of found) {
    const example = yield* exampleFor(asked, found, each);
    if (example) examples.push(example);
  }
  return { clauses: found.map((each) => each.line.clause.id), smallest, examples };
}

function* smallestSet({ step, input }: CriteriaAt, top: readonly ActiveClause[]): Questioning<readonly ActiveClause[] | undefined> {
  const groups = yield* outcomeGroups(input, top);
  const failing = groups.map((group) => failedBy(step.head, top, group));
  const found = smallestHitting(top.length, failing);
  return found === undefined ? undefined : top.filter((_each, index) => (found & (1 << index)) !== 0);
}

function failedBy(head: CriteriaAt['step']['head'], top: readonly ActiveClause[], { outcomes }: OutcomeGroup): number {
  return top.reduce((mask, { line }, index) => (passes(head, outcomes.get(line.clause.id) ?? null) ? mask : mask | (1 << index)), 0);
}

/**
 * The smallest set, as bits, that meets every one of `sets`; of equal ones the one whose members come first.
 * Undefined when one of the sets is empty: then nothing meets it.
 */
export function smallestHitting(count: number, sets: readonly number[]): number | undefined {
  if (sets.includes(0)) return undefined;
  const distinct = [...new Set(sets)];
  let best: number | undefined;
  const size = (bits: number) => bits.toString(2).replaceAll('0', '').length;
  for (let bits = 0; bits < 1 << count; bits++) {
    if (best !== undefined && size(bits) >= size(best)) continue;
    if (distinct.every((each) => (each & bits) !== 0)) best = bits;
  }
  return best;
}

/**
 * A set from which none can be left out, by halving (U. Junker, "QuickXplain", 2004): each test asks whether any row
 * passes some clauses, and few are needed where the set is small.
 */
function* irreducibleSet(asked: CriteriaAt, top: readonly ActiveClause[]): Questioning<readonly ActiveClause[] | undefined> {
  if (yield* anyRow(asked, top)) return undefined;
  return yield* explain(asked, [], top, false);
}

function* explain(
  asked: CriteriaAt,
  behind: readonly ActiveClause[],
  open: readonly ActiveClause[],
  grown: boolean,
): Questioning<readonly ActiveClause[]> {
  if (grown && !(yield* anyRow(asked, behind))) return [];
  if (open.length <= 1) return open;
  const half = Math.ceil(open.length / 2);
  const [first, second] = [open.slice(0, half), open.slice(half)];
  const later = yield* explain(asked, [...behind, ...first], second, true);
  const sooner = yield* explain(asked, [...behind, ...later], first, later.length > 0);
  return [...sooner, ...later];
}

function* anyRow(asked: CriteriaAt, clauses: readonly ActiveClause[]): Questioning<boolean> {
  const rows = yield {
    ...passingRows(
      asked,
      clauses.map((each) => passing(asked.step.head, each.condition)),
    ),
    limit: 1,
  };
  return rows.length > 0;
}

function passingRows(
  { input, schema }: CriteriaAt,
  conditions: readonly Expression[],
  columns: readonly Column[] = schema.fields.slice(0, 1),
) {
  const [only] = conditions;
  if (!only) return { relation: input, columns };
  const { relation, expressions } = shared(input, [conditions.length > 1 ? all(...conditions) : only]);
  const filtered: Relation = { node: 'filter', input: relation, condition: expressions[0] ?? only };
  return { relation: filtered, columns };
}

function* exampleFor(asked: CriteriaAt, set: readonly ActiveClause[], clause: ActiveClause): Questioning<ExcludingExample | undefined> {
  const { schema, step, grain } = asked;
  const used = [...new Set(set.flatMap((each) => fieldsUsed(each.condition)))];
  const columns = [...new Set([...knownBy(grain, schema), ...used])].flatMap((id) => fieldById(schema, id) ?? []).slice(0, 8);
  const conditions = set.map((each) => {
    const pass = passing(step.head, each.condition);
    return each === clause ? not(isTrue(pass)) : pass;
  });
  const [row] = yield { ...passingRows(asked, conditions, columns), limit: 1 };
  return row && { clause: clause.line.clause.id, values: columns.map(({ name }, index) => ({ name, value: row[index] ?? null })) };
}
