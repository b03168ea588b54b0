import type { Expression } from '../../expressions';
import {
  all,
  arithmetic,
  compare,
  conjunction,
  either,
  failureWithin,
  fieldsUsed,
  isNull,
  NULL,
  textLiteral,
  when,
  widen,
  wholeLiteral,
} from '../../expressions';
import type { FieldType } from '../../fields';
import { text, whole } from '../../fields';
import type { CalculatedColumn, Column, MeasureColumn, Relation } from '../../sql';
import { calculatedColumn, columnsOf, valueOf } from '../../sql';
import type { Questioning, WireRow } from '../../steps';
import { joinCondition } from '../../steps';
import { allOf } from '../active-clauses';
import type { QuestionContext } from '../question';
import type { JoinAt, JoinPlace, JoinTried } from './join-at';
import { countedBy, countOf, equalValues, joinAt, keyColumns, LARGE, large, partnersColumn, present } from './join-at';

/** Rows of one side, and how many distinct keys they have. Whole numbers as text, for they may be large. */
export interface EvidenceLine {
  readonly rows: string;
  readonly keys: string;
}

/** How many rows have so many partners. */
export interface PartnerLine extends EvidenceLine {
  readonly partners: PartnerCount;
  /** The rows they become. */
  readonly become: string;
}

export const PARTNER_COUNTS = ['1', '2', '3 to 5', 'more'] as const;
export type PartnerCount = (typeof PARTNER_COUNTS)[number];

/** One side of a join: what becomes of its rows. */
export interface SideEvidence {
  readonly all: EvidenceLine;
  /** With one partner or more. */
  readonly partners: readonly PartnerLine[];
  /** Without a partner, though it has what it is met by. */
  readonly alone: EvidenceLine;
  /** Without a partner, because what it is met by is null. */
  readonly nulls: EvidenceLine;
  /** Rows in which computing what they are met by failed; it is null there. */
  readonly failed: string;
}

/** The evidence of a join: exact, over whole inputs. */
export interface JoinEvidence {
  readonly left: SideEvidence;
  readonly right: SideEvidence;
  /** Pairs of rows that meet. */
  readonly met: string;
  /** What rows of the first side meet by that have most partners. */
  readonly worst: readonly WorstKey[];
  /** What those values are, in words. */
  readonly by: readonly string[];
}

export interface WorstKey {
  /** In wire form. */
  readonly values: readonly (string | null)[];
  readonly rows: string;
  readonly partners: string;
}

export const WORST_SHOWN = 10;

/** Throws a ProblemError where the join or a pair of it is wrong. */
export function* joinEvidence(context: QuestionContext, place: JoinPlace, tried?: JoinTried): Questioning<JoinEvidence> {
  const join = joinAt(context, place, tried);
  const equal = equalValues(join);
  const { relation, by } = equal ? byEqualValues(join, equal) : byCondition(join, context);
  const rows = yield allOf(relation);
  const failed = yield* failedKeys(join);
  const { left, right, ...rest } = read(rows, by.length);
  return { ...rest, by, left: { ...left, failed: failed.left }, right: { ...right, failed: failed.right } };
}

/** In how many rows of each side computing what they are met by fails; asked only where something can. */
function* failedKeys({ checked, left, right }: JoinAt): Questioning<{ readonly left: string; readonly right: string }> {
  const sides = checked.checked.pairs.flatMap((each) => each.sides ?? []);
  const failing = (of: readonly Expression[]) => of.flatMap((each) => failureWithin(each) ?? []);
  const lefts = yield* countWhere(left, failing(sides.map((each) => each.left)));
  return { left: lefts, right: yield* countWhere(right, failing(sides.map((each) => each.right))) };
}

function* countWhere(input: Relation, failures: readonly Expression[]): Questioning<string> {
  const [only] = failures;
  if (!only) return '0';
  const anyFails = failures.length > 1 ? either(...failures) : only;
  const rows = yield allOf({ node: 'group', input, keys: [], counts: [{ id: 'failed', when: anyFails }] });
  return rows[0]?.[0] ?? '0';
}

interface Asked {
  readonly relation: Relation;
  readonly by: readonly string[];
}

/** Columns of the one statement: what a row of it is, then what it counts, then the key of a worst one. */
const SIDE = 'side';
const OUTCOME = 'outcome';
const PARTNERS = 'partners';
const COUNTED: readonly Column[] = [large('rows'), large('keys'), large('become')];

const N = 'n';
const M = 'm';

/** Each side counted by its key, both met in full: what is equal on one side meets one group of the other at most. */
function byEqualValues(join: JoinAt, equal: readonly { readonly left: Expression; readonly right: Expression }[]): Asked {
  const lefts = keyColumns(
    equal.map((each) => each.left),
    'left',
  );
  const rights = keyColumns(
    equal.map((each) => each.right),
    'right',
  );
  const on = conjunction(lefts.map((each, at) => compare('=', valueOf(each), valueOf(rights[at] ?? each))));
  const met: Relation = { node: 'join', left: countedBy(join.left, lefts, N), right: countedBy(join.right, rights, M), on, keeps: 'both' };
  const alone = (own: string, keys: readonly CalculatedColumn[], other: string) =>
    outcomeOf(present(countOf(own)), either(...keys.map((each) => isNull(valueOf(each)))), present(countOf(other)));
  const counted: Relation = {
    node: 'calculate',
    input: met,
    fields: [
      calculatedColumn('outcome left', alone(N, lefts, M)),
      calculatedColumn('outcome right', alone(M, rights, N)),
      calculatedColumn('pairs', arithmetic('*', countOf(N), countOf(M))),
      calculatedColumn('count', wholeLiteral(1)),
    ],
  };
  const pairs = valueOf({ id: 'pairs', type: arithmetic('*', countOf(N), countOf(M)).type });
  const parts = [
    sideOf('left', counted, { outcome: 'outcome left', partners: countOf(M), rows: countOf(N), become: pairs }),
    sideOf('right', counted, { outcome: 'outcome right', partners: countOf(N), rows: countOf(M), become: pairs }),
    worstOf(counted, lefts, countOf(N), countOf(M)),
  ];
  return { relation: stacked(parts, lefts), by: lefts.map((_each, at) => wordsOf(join, at)) };
}

/**
 * For any other condition each side is counted by the fields it asks about, and a group may meet several: what each
 * comes to is added up behind. Not every engine joins fully by such conditions, so it may be done in the combine engine.
 */
function byCondition(join: JoinAt, { binding }: QuestionContext): Asked {
  const condition = joinCondition(join.checked, binding);
  const used = new Set(fieldsUsed(condition));
  const keysOf = (relation: Relation) =>
    columnsOf(relation)
      .filter((each) => used.has(each.id))
      .map((each): CalculatedColumn => ({ ...each, expression: valueOf(each) }));
  const [lefts, rights] = [keysOf(join.left), keysOf(join.right)];
  const [left, right] = [countedBy(join.left, lefts, N), countedBy(join.right, rights, M)];
  const met: Relation = { node: 'join', left, right, on: condition, keeps: used.size === 0 ? 'pairs' : 'both' };
  const side = (keys: readonly CalculatedColumn[], own: string, other: string): Relation => {
    const there: Relation = { node: 'filter', input: met, condition: present(countOf(own)) };
    const sum: MeasureColumn = { ...partnersColumn('sum'), aggregate: 'sum', of: countOf(other) };
    const grouped: Relation = {
      node: 'group',
      input: there,
      keys: [...keys.map((each) => ({ ...each, expression: valueOf(each) })), calculatedColumn('own', countOf(own))],
      counts: [],
      measures: [sum],
    };
    const partners = valueOf(sum);
    const nulls = keys.length === 0 ? compare('=', wholeLiteral(0), wholeLiteral(1)) : either(...keys.map((each) => isNull(valueOf(each))));
    return {
      node: 'calculate',
      input: grouped,
      fields: [
        calculatedColumn('side outcome', outcomeOf(present(countOf('own')), nulls, present(partners))),
        calculatedColumn('pairs', arithmetic('*', countOf('own'), partners)),
        calculatedColumn('count', wholeLiteral(1)),
      ],
    };
  };
  const [ofLeft, ofRight] = [side(lefts, N, M), side(rights, M, N)];
  const partners = valueOf(partnersColumn('sum'));
  const pairs = valueOf({ id: 'pairs', type: arithmetic('*', countOf('own'), partners).type });
  const of = { outcome: 'side outcome', partners, rows: countOf('own'), become: pairs };
  const parts = [sideOf('left', ofLeft, of), sideOf('right', ofRight, of), worstOf(ofLeft, lefts, countOf('own'), partners)];
  return { relation: stacked(parts, lefts), by: lefts.map((each) => each.name) };
}

/** met, alone or null; null where the row is none of this side. */
const outcomeOf = (own: Expression, nulls: Expression, met: Expression): Expression =>
  when(own, when(met, textLiteral('met'), when(nulls, textLiteral('null'), textLiteral('alone'))), widen(NULL, text));

interface Summed {
  readonly outcome: string;
  readonly partners: Expression;
  readonly rows: Expression;
  readonly become: Expression;
}

/** The rows of a side by what becomes of them and how many partners they have. */
function sideOf(side: 'left' | 'right', input: Relation, { outcome, partners, rows, become }: Summed): Relation {
  const outcomeColumn = { id: outcome, type: text };
  const there: Relation = { node: 'filter', input, condition: present(valueOf(outcomeColumn)) };
  const few = (most: number) => compare('<=', partners, wholeLiteral(most));
  const index = when(few(1), wholeLiteral(0), when(few(2), wholeLiteral(1), when(few(5), wholeLiteral(2), wholeLiteral(3))));
  const measure = (id: string, of: Expression): MeasureColumn => ({ ...large(id), aggregate: 'sum', of });
  const grouped: Relation = {
    node: 'group',
    input: there,
    keys: [calculatedColumn(OUTCOME, valueOf(outcomeColumn)), calculatedColumn(PARTNERS, when(isNull(partners), wholeLiteral(0), index))],
    counts: [],
    measures: [measure('rows', rows), measure('keys', valueOf({ id: 'count', type: whole })), measure('become', become)],
  };
  return { node: 'calculate', input: grouped, fields: [calculatedColumn(SIDE, textLiteral(side))] };
}

/** The keys with most partners, of those that have several. */
function worstOf(input: Relation, keys: readonly CalculatedColumn[], rows: Expression, partners: Expression): Relation {
  const own = keys.map(({ id, name, type }): Column => ({ id, name, type }));
  const several: Relation = {
    node: 'filter',
    input,
    condition: all(present(rows), compare('>', partners, wholeLiteral(1))),
  };
  const by = (of: Expression, descending: boolean) => ({ of, descending, nullsFirst: false });
  const order = [by(partners, true), by(rows, true), ...own.map((each) => by(valueOf(each), false))];
  const first: Relation = { node: 'limit', input: several, count: WORST_SHOWN, order };
  const added = (id: string, type: FieldType, of: Expression): CalculatedColumn => ({ id, name: id, type, expression: of });
  return {
    node: 'calculate',
    input: first,
    kept: own.map((each) => each.id),
    fields: [
      added(SIDE, text, textLiteral('worst')),
      added(OUTCOME, text, widen(NULL, text)),
      added(PARTNERS, whole, widen(NULL, whole)),
      added('rows', LARGE, widen(rows, LARGE)),
      added('keys', LARGE, widen(partners, LARGE)),
      added('become', LARGE, widen(NULL, LARGE)),
    ],
  };
}

/** The parts on top of one another, those without keys with nulls in their place. */
function stacked(parts: readonly Relation[], keys: readonly CalculatedColumn[]): Relation {
  const own = keys.map(({ id, name, type }): Column => ({ id, name, type }));
  const columns: readonly Column[] = [
    { id: SIDE, name: SIDE, type: text },
    { id: OUTCOME, name: OUTCOME, type: text },
    { id: PARTNERS, name: PARTNERS, type: whole },
    ...COUNTED,
    ...own,
  ];
  const complete = parts.map((part): Relation => {
    const has = new Set(columnsOf(part).map((each) => each.id));
    const missing = own.filter((each) => !has.has(each.id)).map((each) => ({ ...each, expression: widen(NULL, each.type) }));
    const full: Relation = missing.length > 0 ? { node: 'calculate', input: part, fields: missing } : part;
    return { node: 'choose', input: full, columns };
  });
  return { node: 'union', inputs: complete, columns: columns.map((each) => ({ ...each, id: `told ${each.id}` })) };
}

/** The written left sides of equal pairs, as their values stand in the evidence. */
function wordsOf({ checked }: JoinAt, at: number): string {
  const texts = checked.checked.pairs.flatMap(({ pair, equal }) =>
    (equal ?? []).map((_each, index) =>
      pair.kind === 'compared' ? (index === 0 && (equal ?? []).length > 1 ? `${pair.left.text} is null` : pair.left.text) : '',
    ),
  );
  return texts[at] ?? '';
}

type Told = Omit<JoinEvidence, 'by' | 'left' | 'right'> & {
  readonly left: Omit<SideEvidence, 'failed'>;
  readonly right: Omit<SideEvidence, 'failed'>;
};

function read(rows: readonly WireRow[], keys: number): Told {
  const of = (side: string) => rows.filter((each) => each[0] === side);
  const line = (some: readonly WireRow[]): EvidenceLine => ({ rows: sum(some, 3), keys: sum(some, 4) });
  const side = (name: string): Omit<SideEvidence, 'failed'> => {
    const own = of(name);
    const met = own.filter((each) => each[1] === 'met');
    return {
      all: line(own),
      partners: PARTNER_COUNTS.flatMap((partners, at) => {
        const some = met.filter((each) => each[2] === String(at));
        return some.length > 0 ? [{ partners, ...line(some), become: sum(some, 5) }] : [];
      }),
      alone: line(own.filter((each) => each[1] === 'alone')),
      nulls: line(own.filter((each) => each[1] === 'null')),
    };
  };
  const worst = of('worst').map((row): WorstKey => ({ values: row.slice(6, 6 + keys), rows: row[3] ?? '0', partners: row[4] ?? '0' }));
  const sorted = worst.toSorted((a, b) => Number(b.partners) - Number(a.partners) || Number(b.rows) - Number(a.rows));
  return { left: side('left'), right: side('right'), met: sum(of('left'), 5), worst: sorted };
}

const sum = (rows: readonly WireRow[], at: number): string => String(rows.reduce((total, row) => total + BigInt(row[at] ?? '0'), 0n));
