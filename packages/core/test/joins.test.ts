import fc from 'fast-check';
import type { CheckedOf, CheckedTrail, ComparedPair, JoinOutcome, MatchSwitch, OutcomeKey, Row, Value } from '../src';
import {
  beginQuestion,
  bindValues,
  checkedOf,
  checkTrail,
  evaluate,
  evaluateTrail,
  inspectedRows,
  joinCondition,
  joinName,
  overlooking,
  proposedPairs,
  rowOf,
  SWITCHES,
  writeValue,
} from '../src';
import type { Graph } from './support/graphs';
import { graph, joinedTables, leavesOf, tablesOf } from './support/graphs';
import { answerIn, rowsIn } from './support/relations';

/** What is said of a join is what is so: its ledger adds up, its near misses are those counted by hand, its grain tells rows apart. */

const binding = bindValues([], {}, 0n);
type Rows = readonly ReadonlyMap<string, Value>[];

interface Sides {
  readonly join: CheckedOf<'join'>;
  readonly left: Rows;
  readonly right: Rows;
  meets(left: ReadonlyMap<string, Value>, right: ReadonlyMap<string, Value>): boolean;
}

/** Both inputs of a join in core, the second's fields under the ids they have behind it. */
function sidesOf(given: Graph, trail: CheckedTrail, join: CheckedOf<'join'>): Sides {
  const { step } = join;
  const rowsAt = (slot: number) => evaluateTrail(given.definition, step.inputs[slot] ?? '', binding, tablesOf(given)).rows;
  const right = rowsAt(1).map((row) => new Map(step.fields.map(({ id, from }) => [id, row.get(from) ?? null])));
  const condition = joinCondition(join, binding);
  return { join, left: rowsAt(0), right, meets: (a, b) => evaluate(condition, rowOf(new Map([...a, ...b]), binding)) === true };
}

const joinsOf = (trail: CheckedTrail) =>
  trail.steps.flatMap((each) => (each.blocked || each.step.off ? [] : (checkedOf('join', each) ?? [])));

/** Every runnable join of generated graphs. */
function everyJoin(look: (sides: Sides, given: Graph, trail: CheckedTrail) => void, graphs = graph): number {
  let seen = 0;
  fc.assert(
    fc.property(graphs, (given) => {
      const trail = checkTrail(given.definition);
      for (const join of joinsOf(trail)) {
        look(sidesOf(given, trail, join), given, trail);
        seen++;
      }
    }),
  );
  return seen;
}

const asked = <Q extends Parameters<typeof beginQuestion>[1]>(question: Q, given: Graph, trail: CheckedTrail) =>
  answerIn(beginQuestion({ trail, binding, others: new Map() }, question), leavesOf(given), binding);

/** How many rows are shown for a line of the ledger, or for a key of it. */
const rowsBehind = (trail: CheckedTrail, given: Graph, join: CheckedOf<'join'>, outcome: JoinOutcome, key?: OutcomeKey) =>
  rowsIn(
    inspectedRows(trail, join.step.id, { kind: 'outcome', outcome, ...(key ? { key } : {}) }, binding).relation,
    leavesOf(given),
    binding,
  ).length;

test('the lines of the ledger add up to both inputs and to what the join gives', () => {
  let several = 0;
  let worst = 0;
  const seen = everyJoin(({ join, left, right, meets }, given, trail) => {
    const { answer } = asked({ kind: 'evidence', step: join.step.id }, given, trail);
    const partners = (row: ReadonlyMap<string, Value>) => right.filter((other) => meets(row, other)).length;
    const owners = (row: ReadonlyMap<string, Value>) => left.filter((other) => meets(other, row)).length;
    for (const [side, rows, count] of [
      [answer.left, left, partners],
      [answer.right, right, owners],
    ] as const) {
      const counts = rows.map(count);
      const between = (from: number, until: number) => counts.filter((each) => each >= from && each <= until);
      const by = Object.fromEntries(side.partners.map((each) => [each.partners, each]));
      expect(Number(side.all.rows)).toBe(rows.length);
      expect(Number(side.alone.rows) + Number(side.nulls.rows)).toBe(counts.filter((each) => each === 0).length);
      for (const [word, from, until] of [
        ['1', 1, 1],
        ['2', 2, 2],
        ['3 to 5', 3, 5],
        ['more', 6, 1_000],
      ] as const) {
        expect(Number(by[word]?.rows ?? 0)).toBe(between(from, until).length);
        expect(Number(by[word]?.become ?? 0)).toBe(between(from, until).reduce((sum, each) => sum + each, 0));
        if (from > 1) several += between(from, until).length;
      }
    }
    const met = left.map(partners).reduce((sum, each) => sum + each, 0);
    expect(Number(answer.met)).toBe(met);
    const { keeps, one } = join.step;
    const matched = left.filter((each) => partners(each) > 0).length;
    const alone = (rows: number) => Number(rows);
    const gives =
      (keeps.met ? (one ? matched : met) : 0) +
      (keeps.left ? alone(left.length - matched) : 0) +
      (keeps.right ? right.filter((each) => owners(each) === 0).length : 0);
    expect(evaluateTrail(given.definition, join.step.id, binding, tablesOf(given)).rows).toHaveLength(gives);
    for (const [outcome, { rows }] of [
      ['left alone', answer.left.alone],
      ['left null', answer.left.nulls],
      ['right alone', answer.right.alone],
      ['right null', answer.right.nulls],
    ] as const)
      if (rows !== '0') expect([outcome, rowsBehind(trail, given, join, outcome)]).toEqual([outcome, Number(rows)]);
    for (const { values, rows } of answer.worst) expect(rowsBehind(trail, given, join, 'several', { values })).toBe(Number(rows));
    worst += answer.worst.length;
    expect(Number(answer.worst[0]?.partners ?? 0)).toBe(
      Math.max(0, ...left.map(partners).filter((each) => each > 1), ...worstSums(answer)),
    );
  });
  expect(seen).toBeGreaterThan(15);
  expect(several).toBeGreaterThan(15);
  expect(worst).toBeGreaterThan(5);
});

/** A worst key has at least two partners, or there is none. */
const worstSums = ({ worst }: { readonly worst: readonly { readonly partners: string }[] }) =>
  worst.map(({ partners }) => (Number(partners) > 1 ? 0 : Number.NaN));

test('near misses are those counted by hand, for every set of differences', () => {
  let found = 0;
  everyJoin(({ join, left, right, meets }, given, trail) => {
    const { pairs } = join.checked;
    const plain = pairs.every((each) => each.equal !== undefined);
    const texts = pairs.filter(
      ({ pair, sides }) => pair.kind === 'compared' && pair.comparison === '=' && sides?.left.type.kind === 'text',
    );
    if (!plain) return;
    for (const { pair, sides } of texts) {
      if (!sides) continue;
      const { answer } = asked({ kind: 'near misses', step: join.step.id, pair: pair.id }, given, trail);
      const value = (row: ReadonlyMap<string, Value>, of: typeof sides.left) => evaluate(of, rowOf(row, binding));
      const othersHold = (a: ReadonlyMap<string, Value>, b: ReadonlyMap<string, Value>) =>
        pairs.every(
          (each) => each.pair === pair || (each.condition && evaluate(each.condition, rowOf(new Map([...a, ...b]), binding)) === true),
        );
      const missed = left.filter((row) => value(row, sides.left) !== null && !right.some((other) => meets(row, other)));
      for (const set of subsets().filter((each) => isWider(each, (pair as ComparedPair).overlooks))) {
        const near = (a: ReadonlyMap<string, Value>, b: ReadonlyMap<string, Value>) =>
          value(a, overlooking(sides.left, set)) === value(b, overlooking(sides.right, set)) && othersHold(a, b);
        const partners = missed.map((row) => right.filter((other) => value(other, sides.right) !== null && near(row, other)).length);
        const told = answer.counts.find((each) => each.overlooks.length === set.length && set.every((one) => each.overlooks.includes(one)));
        expect(Number(told?.rows ?? 0)).toBe(partners.filter((each) => each > 0).length);
        expect(Number(told?.become ?? 0)).toBe(partners.reduce((sum, each) => sum + each, 0));
        found += partners.filter((each) => each > 0).length;
      }
      for (const each of answer.pairs) {
        expect(each.overlooks.length).toBeGreaterThan(0);
        const key = { pair: pair.id, values: [each.left, ...each.others] };
        expect(rowsBehind(trail, given, join, 'left alone', key)).toBe(Number(each.rows));
      }
    }
  }, joinedTables);
  expect(found).toBeGreaterThan(20);
});

const subsets = () =>
  SWITCHES.reduce<readonly (readonly MatchSwitch[])[]>((sets, each) => [...sets, ...sets.map((set) => [...set, each])], [[]]);
const isWider = (set: readonly MatchSwitch[], than: readonly MatchSwitch[]) =>
  set.length > than.length && than.every((each) => set.includes(each));

test('the grain that is claimed of any step tells its rows apart', () => {
  let claimed = 0;
  fc.assert(
    fc.property(graph, (given) => {
      const trail = checkTrail(given.definition);
      for (const { step, grain, schema } of trail.steps.filter((each) => !each.blocked)) {
        const { rows } = evaluateTrail(given.definition, step.id, binding, tablesOf(given));
        const handed = new Set(schema.fields.flatMap((each) => (each.forUseOnly ? [] : [each.id])));
        // The evaluator gives what is handed on only.
        for (const key of grain.keys.filter((each) => each.every((id) => handed.has(id)))) {
          const types = key.flatMap((id) => schema.fields.find((each) => each.id === id)?.type ?? []);
          expect(types).toHaveLength(key.length);
          const told = rows.map((row) =>
            JSON.stringify(
              key.map((id, at) => {
                const value = row.get(id) ?? null;
                const type = types[at];
                return value === null || !type ? null : writeValue(type, value);
              }),
            ),
          );
          expect(new Set(told).size).toBe(rows.length);
          if (step.kind === 'join') claimed++;
        }
      }
    }),
  );
  expect(claimed).toBeGreaterThan(15);
});

test('rows whose kept partner the order leaves open are counted', () => {
  let open = 0;
  const look = ({ join, left, right, meets }: Sides, given: Graph) => {
    // Few different values, so that several partners share the first one.
    const field = join.step.fields.find((each) => each.name.endsWith('_n')) ?? join.step.fields[0];
    if (!field) return;
    const one = [{ field: field.id, descending: true }];
    const steps = given.definition.steps.map((each) => (each.id === join.step.id ? { ...each, one } : each));
    const definition = { ...given.definition, steps: steps as typeof given.definition.steps };
    const { answer } = asked({ kind: 'partner ties', step: join.step.id }, { ...given, definition }, checkTrail(definition));
    const firsts = left.map((row) => {
      const values = right.filter((other) => meets(row, other)).map((other) => textOfValue(other.get(field.id) ?? null));
      const greatest = values.filter((each) => each !== undefined).toSorted((a, b) => (a < b ? 1 : -1))[0];
      return values.filter((each) => each === greatest).length;
    });
    expect(Number(answer.rows)).toBe(firsts.filter((each) => each > 1).length);
    open += Number(answer.rows);
  };
  everyJoin(look);
  everyJoin(look, joinedTables);
  expect(open).toBeGreaterThan(5);
});

/** Sortable by code unit, as the small numbers and texts of graphs are; undefined for null. */
const textOfValue = (value: Value): string | undefined =>
  value === null ? undefined : typeof value === 'object' ? value.digits.toString().padStart(6, '0') : String(value);

test('a join is called by what it keeps', () => {
  const name = (met: boolean, left: boolean, right: boolean) => joinName({ met, left, right });
  expect([name(true, false, false), name(true, true, false), name(true, false, true), name(true, true, true)]).toEqual([
    'inner join',
    'left join',
    'right join',
    'full join',
  ]);
  expect(name(false, true, false)).toContain('first side without a partner');
  expect(joinName({ met: true, left: false, right: false }, false)).toBe('cross join');
});

describe('differences that are overlooked', () => {
  const form = (value: string, ...set: readonly MatchSwitch[]) => {
    const row: Row = rowOf(new Map(), binding);
    return evaluate(overlooking({ op: 'literal', type: { kind: 'text' }, value }, set), row);
  };
  test.each([
    ['FN-07 ', 'FN-07', 'blanks'],
    ['fn-07', 'FN-07', 'case'],
    ['007', '7', 'zeros'],
    ['000', '0', 'zeros'],
    ['7.0', '7', 'number'],
    [' 07', '7', 'number', 'blanks'],
  ] as readonly (readonly [string, string, ...MatchSwitch[]])[])('%j meets %j by %s', (...given) => {
    const [left, right, ...set] = given as unknown as readonly [string, string, ...MatchSwitch[]];
    expect(left).not.toBe(right);
    expect(form(left, ...set)).toBe(form(right, ...set));
  });
  test('an empty code is no zero, and text that is no number stays what it is', () => {
    expect(form('', 'zeros')).not.toBe(form('0', 'zeros'));
    expect(form('FN-07', 'number')).toBe('FN-07');
  });
});

test('proposes nothing for a step that is no join', () => {
  const [given] = fc.sample(graph, { numRuns: 1, seed: 1 });
  if (!given) throw new Error('a graph is made');
  expect(proposedPairs(checkTrail(given.definition), { step: 't0' })).toEqual([]);
});
