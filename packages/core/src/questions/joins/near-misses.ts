import type { Expression } from '../../expressions';
import { all, arithmetic, compare, conjunction, evaluate, isNull } from '../../expressions';
import type { EqualValues, MatchSwitch } from '../../joins';
import { overlooking, SWITCHES } from '../../joins';
import { refuse } from '../../problem';
import type { CalculatedColumn, MeasureColumn, Relation } from '../../sql';
import { calculatedColumn, columnsOf, valueOf } from '../../sql';
import type { Questioning } from '../../steps';
import { rowOf } from '../../steps';
import { readValue } from '../../values';
import { allOf } from '../active-clauses';
import type { QuestionContext } from '../question';
import type { JoinAt, JoinPlace } from './join-at';
import { countedBy, countOf, joinAt, keyColumns, large, partnersColumn } from './join-at';

/** What overlooking some differences of a pair would bring, besides what meets already. */
export interface NearMissCount {
  readonly overlooks: readonly MatchSwitch[];
  /** Rows and distinct values of the first side that would have a partner then. */
  readonly rows: string;
  readonly keys: string;
  /** The rows these would become. */
  readonly become: string;
}

export interface NearMiss {
  readonly left: string;
  /** What the other pairs ask of the first side's rows, in wire form. */
  readonly others: readonly (string | null)[];
  readonly right: string;
  readonly rows: string;
  readonly partners: string;
  /** The fewest differences that have to be overlooked for these two to meet. */
  readonly overlooks: readonly MatchSwitch[];
}

export interface NearMisses {
  /** Every set of differences that brings something. */
  readonly counts: readonly NearMissCount[];
  /** Those with most rows first. */
  readonly pairs: readonly NearMiss[];
}

const MISSES_SHOWN = 20;
const LEFT = 'missed';
const RIGHT = 'near';

/**
 * Values of a pair's first side without a partner that would have one if differences of writing were overlooked. All
 * other pairs hold as they are. Throws a ProblemError where the pair compares no texts.
 */
export function* nearMisses(context: QuestionContext, place: JoinPlace, pairId: string): Questioning<NearMisses> {
  const join = joinAt(context, place);
  const asked = pairAt(join, pairId);
  const offered = SWITCHES.filter((each) => each !== 'number' || asked.sets.some((set) => set.includes('number')));
  const near = meeting(join, asked, offered);
  const counts = yield allOf(countsOf(near, asked));
  const [row = []] = counts;
  const told = asked.sets.map((overlooks, at): NearMissCount => {
    const [rows, keys, become] = [row[3 * at], row[3 * at + 1], row[3 * at + 2]];
    return { overlooks, rows: rows ?? '0', keys: keys ?? '0', become: become ?? '0' };
  });
  if (told.every((each) => each.keys === '0')) return { counts: [], pairs: [] };
  const order = [
    { of: countOf('n'), descending: true, nullsFirst: false },
    { of: valueOf({ id: LEFT, type: asked.sides.left.type }), descending: false, nullsFirst: false },
  ];
  const first: Relation = { node: 'limit', input: near, count: MISSES_SHOWN, order };
  const others = asked.others.map((_each, at) => `left ${at + 1}`);
  const columns = columnsOf(first).filter(({ id }) => [LEFT, RIGHT, 'n', 'm', ...others].includes(id));
  const shown = yield { relation: first, columns };
  const at = new Map(columns.map((each, index) => [each.id, index]));
  const pairs = shown.map((each): NearMiss => {
    const of = (id: string) => each[at.get(id) ?? -1] ?? null;
    const [left, right] = [of(LEFT) ?? '', of(RIGHT) ?? ''];
    return { left, right, others: others.map(of), rows: of('n') ?? '0', partners: of('m') ?? '0', overlooks: fewest(asked, left, right) };
  });
  return { counts: told.filter((each) => each.keys !== '0'), pairs };
}

interface Asked {
  readonly sides: { readonly left: Expression; readonly right: Expression };
  /** What the pair overlooks already. */
  readonly already: readonly MatchSwitch[];
  readonly others: readonly EqualValues[];
  /** Sets of differences that can be overlooked, those of the pair among each of them. */
  readonly sets: readonly (readonly MatchSwitch[])[];
}

function pairAt({ checked }: JoinAt, id: string): Asked {
  const { pairs } = checked.checked;
  const found = pairs.find((each) => each.pair.id === id);
  const place = { step: checked.step.id, clause: id };
  if (found?.pair.kind !== 'compared' || !found.sides || found.pair.comparison !== '=')
    return refuse('pair-unsuited', 'Near misses are looked for between texts that have to be equal.', place);
  const { sides, pair } = found;
  const types = [sides.left.type.kind, sides.right.type.kind];
  if (!types.includes('text')) return refuse('pair-unsuited', 'Near misses are looked for between texts.', place);
  const others = pairs.filter((each) => each !== found);
  const equal = others.flatMap((each) => each.equal ?? []);
  if (others.some((each) => each.equal === undefined))
    return refuse('pair-unsuited', 'Near misses are looked for where all pairs ask for equal values.', place);
  const withNumber = types.some((each) => each !== 'text') ? (['number'] as const) : [];
  const already = pair.overlooks;
  const sets = subsets(SWITCHES).filter(
    (set) => set.length > already.length && [...already, ...withNumber].every((each) => set.includes(each)),
  );
  return { sides, already, others: equal, sets };
}

function subsets<T>(items: readonly T[]): readonly (readonly T[])[] {
  return items.reduce<readonly (readonly T[])[]>((sets, each) => [...sets, ...sets.map((set) => [...set, each])], [[]]);
}

/** Values without a partner beside values of the other side they would meet if all were overlooked, with the rows of each. */
function meeting(join: JoinAt, { sides, already, others }: Asked, offered: readonly MatchSwitch[]): Relation {
  const otherLefts = keyColumns(
    others.map((each) => each.left),
    'left',
  );
  const otherRights = keyColumns(
    others.map((each) => each.right),
    'right',
  );
  const lefts = countedBy(join.left, [calculatedColumn(LEFT, sides.left), ...otherLefts], 'n');
  const rights = countedBy(join.right, [calculatedColumn(RIGHT, sides.right), ...otherRights], 'm');
  const [left, right] = [valueOf({ id: LEFT, type: sides.left.type }), valueOf({ id: RIGHT, type: sides.right.type })];
  const same = otherLefts.map((each, at) => compare('=', valueOf(each), valueOf(otherRights[at] ?? each)));
  const exact = compare('=', overlooked(left, already), overlooked(right, already));
  const met: Relation = { node: 'join', left: lefts, right: rights, on: conjunction([exact, ...same]), keeps: 'left' };
  const missed: Relation = {
    node: 'choose',
    input: { node: 'filter', input: met, condition: all(isNull(countOf('m')), { op: 'not', type: { kind: 'yesno' }, of: isNull(left) }) },
    columns: columnsOf(lefts),
  };
  const near = compare('=', overlooking(left, offered), overlooking(right, offered));
  return { node: 'join', left: missed, right: rights, on: conjunction([near, ...same]), keeps: 'pairs' };
}

const overlooked = (of: Expression, switches: readonly MatchSwitch[]) => (switches.length > 0 ? overlooking(of, switches) : of);

/** For every set of differences: rows, values, and the rows they become. */
function countsOf(near: Relation, { sides, sets, others }: Asked): Relation {
  const [left, right] = [valueOf({ id: LEFT, type: sides.left.type }), valueOf({ id: RIGHT, type: sides.right.type })];
  const keys = [{ id: LEFT, type: sides.left.type }, ...others.map((each, at) => ({ id: `left ${at + 1}`, type: each.left.type }))].map(
    (each): CalculatedColumn => calculatedColumn(each.id, valueOf(each)),
  );
  const partners = sets.map((set, at): MeasureColumn => ({
    ...partnersColumn(`partners ${at}`),
    aggregate: 'sum',
    of: countOf('m'),
    when: compare('=', overlooking(left, set), overlooking(right, set)),
  }));
  const byValue: Relation = {
    node: 'group',
    input: near,
    keys: [...keys, calculatedColumn('rows', countOf('n'))],
    counts: [],
    measures: partners,
  };
  const told = partners.flatMap((each, at): readonly MeasureColumn[] => {
    const when = { op: 'not', type: { kind: 'yesno' }, of: isNull(valueOf(each)) } as const;
    const rows = countOf('rows');
    return [
      { ...large(`rows ${at}`), aggregate: 'sum', of: rows, when },
      { ...large(`keys ${at}`), aggregate: 'count', of: rows, when },
      {
        ...large(`become ${at}`),
        aggregate: 'sum',
        of: arithmetic('*', rows, valueOf(each)),
        when,
      },
    ];
  });
  return { node: 'group', input: byValue, keys: [], counts: [], measures: told };
}

/** Found in core, for the few that are shown. */
function fewest({ sides, sets }: Asked, left: string, right: string): readonly MatchSwitch[] {
  const literal = (of: Expression, wire: string): Expression => {
    const read = readValue(of.type, wire);
    return { op: 'literal', type: of.type, value: read.ok ? read.value : null };
  };
  const row = rowOf(new Map(), { bound: new Map(), now: 0n });
  const form = (of: Expression, set: readonly MatchSwitch[]) => evaluate(overlooking(of, set), row);
  const [a, b] = [literal(sides.left, left), literal(sides.right, right)];
  return sets.toSorted((x, y) => x.length - y.length).find((set) => form(a, set) === form(b, set)) ?? [];
}
