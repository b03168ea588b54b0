import fc from 'fast-check';
import type { Binding, CheckedTrail, Definition, Plan, Relation, Step, Value } from '../src';
import {
  bindValues,
  columnsOf,
  checkedStep,
  checkTrail,
  compareValues,
  countsFrom,
  duckdb,
  evaluateTrail,
  fieldById,
  firstArriving,
  beginQuestion,
  kindOf,
  lanesOf,
  lineageOf,
  ofWhole,
  outputColumns,
  planCounts,
  planRelation,
  planRows,
  postgresql,
  readDefinition,
  relationAfter,
  sourcesOf,
  stageGroup,
  watchedAt,
  whole,
  writeValue,
} from '../src';
import type { Graph } from './support/graphs';
import { graph, leavesOf, tablesOf } from './support/graphs';
import { answerIn, rowsIn, wantedIn } from './support/relations';

/** Graphs of several inputs and sites: whatever is true of a chain on one table is true of them. A made-up kind with two inputs is among their steps. */

const dialects = (site: { readonly kind: string }) => (site.kind === 'combine' ? duckdb : postgresql('numbered'));
const binding = bindValues([], {}, 0n);
const runnable = (trail: CheckedTrail) => trail.steps.filter((each) => !each.blocked);

/** A value as a text, numbers by their digits. */
const textOf = (value: Value) => (typeof value === 'object' && value !== null ? `${value.digits} ${value.scale}` : String(value));

type WireRows = readonly (readonly (string | null)[])[];

function wired(trail: CheckedTrail, step: string, rows: readonly ReadonlyMap<string, Value>[]): WireRows {
  const columns = outputColumns(trail, step);
  const wire = rows.map((row) =>
    columns.map(({ id, type }) => {
      const value = row.get(id) ?? null;
      return value === null ? null : writeValue(type, value);
    }),
  );
  return wire.toSorted((a, b) => (JSON.stringify(a) < JSON.stringify(b) ? -1 : 1));
}

/** Carries a plan out in core, stage by stage, as the server does. */
function carriedOut(
  plan: Plan,
  of: Graph,
  from: Binding,
): { readonly rows: readonly ReadonlyMap<string, Value>[]; readonly keyed: number } {
  const landed = new Map<string, readonly ReadonlyMap<string, Value>[]>();
  const leaves = leavesOf(of);
  let keyed = 0;
  for (const stage of plan.stages) {
    const { keys } = stage;
    for (const result of stage.reads) if (!landed.has(result)) throw new Error(`${stage.result} runs before ${result}`);
    const asked = plan.stages.find((each) => each.result === keys?.of);
    const type = (asked ? columnsOf(asked.relation) : []).find((each) => each.id === keys?.column)?.type ?? whole;
    const values = [
      ...new Map(
        (keys ? (landed.get(keys.of) ?? []) : []).flatMap((row) => {
          const value = row.get(keys?.column ?? '') ?? null;
          return value === null ? [] : [[writeValue(type, value), value] as const];
        }),
      ).values(),
    ];
    if (keys) keyed++;
    const bound = keys ? { ...from, bound: new Map([...from.bound, [keys.list, { takes: 'several' as const, values }]]) } : from;
    const rows = rowsIn(stage.relation, (leaf) => (leaf.node === 'landed' ? (landed.get(leaf.handle) ?? []) : leaves(leaf)), bound);
    landed.set(stage.result, rows);
  }
  return { rows: landed.get('rows') ?? [], keyed };
}

describe('a graph of steps', () => {
  test('gives the same rows over one site, over several, and in core', () => {
    let several = 0;
    let keyed = 0;
    fc.assert(
      fc.property(graph, (given) => {
        const onOne = given.definition.steps.map((each) => (each.kind === 'table' ? { ...each, source: 's1' } : each));
        for (const definition of [given.definition, { ...given.definition, steps: onOne }]) {
          const trail = checkTrail(definition);
          for (const { step } of runnable(trail)) {
            const expected = wired(trail, step.id, evaluateTrail(definition, step.id, binding, tablesOf(given)).rows);
            const plan = planRows(relationAfter(trail, step.id, binding), outputColumns(trail, step.id), undefined, dialects);
            const done = carriedOut(plan, given, binding);
            expect(wired(trail, step.id, done.rows)).toEqual(expected);
            if (plan.stages.length > 1) several++;
            keyed += done.keyed;
            if (definition.steps === onOne) expect(plan.stages).toHaveLength(1);
          }
        }
      }),
      { numRuns: 150 },
    );
    expect(several).toBeGreaterThan(20);
    expect(keyed).toBeGreaterThan(10);
  });

  test('limited gives as many rows as it has to, none it does not have, and brings no whole side of a join that keeps the other', () => {
    fc.assert(
      fc.property(graph, fc.integer({ min: 1, max: 4 }), (given, most) => {
        const trail = checkTrail(given.definition);
        for (const { step } of runnable(trail)) {
          const all = wired(trail, step.id, evaluateTrail(given.definition, step.id, binding, tablesOf(given)).rows);
          const plan = planRows(relationAfter(trail, step.id, binding), outputColumns(trail, step.id), most, dialects);
          const some = wired(trail, step.id, carriedOut(plan, given, binding).rows);
          expect(some).toHaveLength(Math.min(most, all.length));
          const left = all.map((each) => JSON.stringify(each));
          for (const each of some) expect(left.splice(left.indexOf(JSON.stringify(each)), 1)).toEqual([JSON.stringify(each)]);
        }
      }),
    );
  });

  test('is counted exactly at every step with its watched figures, by as few statements as there are runs of steps', () => {
    let figures = 0;
    fc.assert(
      fc.property(graph, (given) => {
        const trail = checkTrail(given.definition);
        for (const { step } of runnable(trail)) {
          const counting = planCounts(trail, step.id, binding);
          const asked = (relation: Relation) => wantedIn({ relation, columns: columnsOf(relation) }, leavesOf(given), binding);
          const groups = counting.segments.map((segment) => asked(segment.relation).map((row) => stageGroup(segment, row)));
          const distinct = counting.distinct.map(({ relation }) => asked(relation)[0] ?? []);
          for (const each of countsFrom(counting, groups, distinct)) {
            const { rows } = evaluateTrail(given.definition, each.step, binding, tablesOf(given));
            expect([each.step, each.rows]).toEqual([each.step, BigInt(rows.length)]);
            const own = [...each.figures].sort((a, b) => a.figure - b.figure);
            expect([each.step, own]).toEqual([each.step, figuresByHand(trail, each.step, rows)]);
            figures += own.length;
          }
        }
      }),
    );
    expect(figures).toBeGreaterThan(100);
  });

  /** Watched figures of a step, told from its rows. */
  function figuresByHand(trail: CheckedTrail, step: string, rows: readonly ReadonlyMap<string, Value>[]) {
    return (trail.definition.watched ?? []).flatMap((watched, figure) => {
      const id = watchedAt(trail, watched).get(step);
      if (id === undefined) return [];
      const values = rows.flatMap((row) => row.get(id) ?? []);
      if (watched.aggregate === 'distinct count') return [{ figure, value: String(new Set(values).size) }];
      const sum = values.reduce<bigint>((done, each) => done + (each as { digits: bigint }).digits, 0n);
      return [{ figure, value: values.length === 0 ? null : String(sum) }];
    });
  }

  test('a row is followed into every branch, as often as it comes out there', () => {
    let further = 0;
    fc.assert(
      fc.property(graph, fc.integer({ min: 1, max: 6 }), (given, row) => {
        const trail = checkTrail(given.definition);
        for (const { step } of runnable(trail)) {
          for (const origin of trail.steps.filter((each) => each.step.kind === 'table')) {
            const field = `${origin.step.id}-id`;
            const behind = new Set(evaluateable(trail, step.id));
            if (!behind.has(origin.step.id)) continue;
            const question = { kind: 'follow', step: step.id, identity: [{ field, value: String(row) }] } as const;
            const context = { trail, binding, others: new Map() };
            const { answer } = answerIn(beginQuestion<typeof question>(context, question), leavesOf(given), binding);
            for (const told of answer.steps) {
              const ids = idsOf(trail, origin.step.id, told.step, field);
              const rows = evaluateTrail(given.definition, told.step, binding, tablesOf(given)).rows;
              const there = rows.filter((each) => ids?.some((id) => same(each.get(id) ?? null, row)));
              // A stacked field holds values of other inputs too, and so does one of groups without rows; they are no rows of this one.
              const stacked = evaluateable(trail, told.step).some((id) => {
                const step = checkedStep(trail, id)?.step;
                return step?.kind === 'union' || (step?.kind === 'summarise' && step.every !== undefined);
              });
              if (ids && !stacked) expect([told.step, told.present]).toEqual([told.step, Math.min(there.length, 20)]);
              if (told.step !== origin.step.id && told.present > 0) further++;
            }
          }
        }
      }),
    );
    expect(further).toBeGreaterThan(50);
  });

  test('tells rows apart by what it says tells them apart', () => {
    fc.assert(
      fc.property(graph, (given) => {
        const trail = checkTrail(given.definition);
        for (const { step, grain } of runnable(trail)) {
          const { rows } = evaluateTrail(given.definition, step.id, binding, tablesOf(given));
          for (const key of grain.keys.filter((each) => each.every((id) => rows.every((row) => row.has(id))))) {
            const values = rows.map((row) => JSON.stringify(key.map((id) => textOf(row.get(id) ?? null))));
            expect(new Set(values).size).toBe(values.length);
          }
        }
      }),
    );
  });

  test('knows where each field comes from, and which sources it reads', () => {
    fc.assert(
      fc.property(graph, ({ definition }) => {
        const trail = checkTrail(definition);
        const sheets = definition.steps.some((each) => each.kind === 'line sheet');
        for (const { schema } of trail.steps)
          // What says where a stacked row came from, or which field a value was, is made of nothing, and so is which line one is.
          for (const { id } of schema.fields.filter(({ name }) => !sheets && !/came_from|what_|^key_/.test(name)))
            expect(lineageOf(trail, id).columns.length).toBeGreaterThan(0);
        const read = definition.steps.flatMap((each) => (each.kind === 'table' ? [each.source] : []));
        expect([...sourcesOf(definition)].sort()).toEqual([...new Set(read)].sort());
      }),
    );
  });

  test('is drawn in lanes that begin at a source, never break, and meet where steps take rows of several', () => {
    fc.assert(
      fc.property(graph, ({ definition }) => {
        const lines = lanesOf({ definition });
        expect(lines.map((each) => each.step).sort()).toEqual(definition.steps.map((each) => each.id).sort());
        let open = new Map<number, string>();
        for (const line of lines) {
          const step = definition.steps.find((each) => each.id === line.step) as Step;
          const inputs = new Set(step.inputs.flatMap((each) => each ?? []));
          const taken = [...(line.comesDown ? [line.lane] : []), ...line.joins.map((each) => each.lane)];
          expect(new Set(taken.map((lane) => open.get(lane)))).toEqual(inputs);
          for (const { lane } of line.passes) expect(open.has(lane) && !inputs.has(open.get(lane) ?? '')).toBe(true);
          const next = new Map(
            [...line.passes, ...line.joins.filter((each) => each.goesOn)].map(({ lane }) => [lane, open.get(lane) ?? '']),
          );
          if (!line.comesDown) expect(next.has(line.lane)).toBe(false);
          if (line.goesOn) next.set(line.lane, line.step);
          open = next;
        }
        expect(open.size).toBe(0);
      }),
    );
  });
});

/** The step and all it stands on. */
function evaluateable(trail: CheckedTrail, id: string): readonly string[] {
  const { step } = checkedStep(trail, id) ?? {};
  return step ? [id, ...step.inputs.flatMap((each) => (each === null ? [] : evaluateable(trail, each)))] : [];
}

/** Under which ids a field of a table stands behind a step, several where it came by several ways; undefined where it was lost on one. */
function idsOf(trail: CheckedTrail, from: string, to: string, field: string): readonly string[] | undefined {
  if (from === to) return [field];
  const step = checkedStep(trail, to)?.step;
  const slots = step?.off ? step.inputs.slice(0, 1) : (step?.inputs ?? []);
  const ways = slots.flatMap((input, slot): readonly (readonly string[] | undefined)[] => {
    if (input === null || !step || !evaluateable(trail, input).includes(from)) return [];
    const before = idsOf(trail, from, input, field);
    const now = before?.flatMap((id) => kindOf(step).carries(step, slot, id) ?? []);
    return [now?.length === before?.length ? now : undefined];
  });
  return ways.some((each) => each === undefined) ? undefined : [...new Set(ways.flatMap((each) => each ?? []))];
}

const same = (value: Value, wanted: number) => value !== null && compareValues(whole, value, ofWhole(BigInt(wanted))) === 0;

describe('an empty slot', () => {
  const whenEmpty = (definition: Definition) =>
    checkTrail(definition).steps.find((each) => each.problems.some(({ code }) => code === 'input-missing'));

  test('is a problem of the step, told with its role, and no broken definition', () => {
    let told = 0;
    fc.assert(
      fc.property(graph, ({ definition }) => {
        expect(readDefinition(JSON.parse(JSON.stringify(definition)))).toEqual({ definition });
        const found = whenEmpty(definition);
        if (!found) return;
        told++;
        expect(found.blocked).toBe(true);
        expect(found.problems[0]).toMatchObject({ message: 'Nothing comes in as the partners of this step.', place: { input: 1 } });
      }),
      { numRuns: 200 },
    );
    expect(told).toBeGreaterThan(3);
  });
});

test('a step that is off keeps its fields, and those it made are null', () => {
  fc.assert(
    fc.property(graph, (given) => {
      const trail = checkTrail(given.definition);
      for (const { step, schema } of runnable(trail).filter(
        (each) => each.step.off && each.arriving.every((one) => one.schema.fields.length > 0),
      )) {
        const { rows } = evaluateTrail(given.definition, step.id, binding, tablesOf(given));
        const [first = ''] = step.inputs.flatMap((each) => each ?? []);
        expect(rows).toHaveLength(evaluateTrail(given.definition, first, binding, tablesOf(given)).rows.length);
        // A key a summary groups by is the field that arrives.
        const came = firstArriving(checkedStep(trail, step.id) ?? { arriving: [] }).schema.fields.map(({ id }) =>
          kindOf(step).carries(step, 0, id),
        );
        for (const id of kindOf(step)
          .mints(step)
          .filter((each) => !came.includes(each))) {
          expect(fieldById(schema, id)).toBeDefined();
          for (const row of rows) expect(row.get(id)).toBeNull();
        }
        expect(planRelation(relationAfter(trail, step.id, binding), dialects).stages.length).toBeGreaterThan(0);
      }
    }),
  );
});
