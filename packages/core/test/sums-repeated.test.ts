import fc from 'fast-check';
import type { Definition, Edit, Layout, SheetEntry, Step, TableStep } from '../src';
import {
  applyEdits,
  bindValues,
  calculateStep,
  checkedOf,
  checkTrail,
  comparedPair,
  decimal,
  emptyDefinition,
  evaluate,
  evaluateTrail,
  fittingLayout,
  fixesOf,
  isNumber,
  joinCondition,
  joinStep,
  layoutProblems,
  linkReferences,
  PLAIN_LAYOUT,
  reportFields,
  resultStep,
  rowOf,
  summariseStep,
  text,
  whole,
} from '../src';
import { examples, seed } from './support/examples';
import { graph, tablesOf } from './support/graphs';

/** A number of one row that a join puts into several is not added up without a word. */

const tableOf = (table: string, row: string, columns: Readonly<Record<string, 'key' | 'measure' | 'attribute'>>): TableStep => ({
  id: table,
  kind: 'table',
  name: '',
  off: false,
  inputs: [],
  source: 's',
  schema: 'coop',
  table,
  called: { row, rows: `${row}s` },
  fields: Object.entries(columns).map(([column, role]) => ({
    id: `${table}-${column}`,
    column,
    sourceType: 'x',
    type: role === 'measure' ? decimal(8, 2) : role === 'key' ? whole : text,
    role,
    looseText: false,
  })),
  taken: Object.keys(columns).map((column) => `${table}-${column}`),
  keys: [[`${table}-id`]],
});

const apiaries = tableOf('apiaries', 'apiary', { id: 'key', hives: 'measure' });
const harvests = tableOf('harvests', 'harvest', { id: 'key', apiary_id: 'key', kilos: 'measure' });

/** The one joined with the other, where the apiary's key is the harvest's. */
function joined(first: TableStep, second: TableStep) {
  let count = 0;
  const all: Definition = { ...emptyDefinition(''), steps: [first, second] };
  const arriving = (step: TableStep) => {
    const { schema, grain } = checkTrail({ ...all, result: step.id }).steps.find((each) => each.step.id === step.id) ?? fail();
    return { schema, grain };
  };
  const step = joinStep(() => `j${count++}`, [first.id, second.id], [arriving(first), arriving(second)], 'other');
  const own = (table: TableStep, column: string) => {
    const id = `${table.id}-${column}`;
    return table === first ? { id, name: column } : (step.fields.find((each) => each.from === id) ?? fail());
  };
  const [harvest, apiary] = [own(harvests, 'apiary_id'), own(apiaries, 'id')];
  const pair = comparedPair({
    id: 'p',
    left: written(first === harvests ? harvest : apiary),
    comparison: '=',
    right: written(first === harvests ? apiary : harvest),
    nullsMeet: false,
    overlooks: [],
  });
  const join = { ...step, id: 'join', pairs: [pair], taken: step.fields.map((each) => each.id) };
  return { ...all, steps: [first, second, join], result: 'join' };
}

const written = ({ id, name }: { readonly id: string; readonly name: string }) => ({
  text: name,
  refs: [{ kind: 'field' as const, id, from: 0, to: name.length }],
});

const behind = (definition: Definition, step: Step): Definition => ({
  ...definition,
  steps: [...definition.steps, { ...step, inputs: [definition.result] }],
  result: step.id,
});

const nothing = { text: '', refs: [] };

const fail = (): never => {
  throw new Error('not there');
};

const once = (definition: Definition) =>
  Object.fromEntries(
    (resultStep(checkTrail(definition))?.schema.fields ?? []).flatMap(({ name, oncePer }) => (oncePer ? [[name, oncePer]] : [])),
  );

describe('behind a join', () => {
  test('what comes from the side whose rows meet several is said to stand once for each of them', () => {
    expect(once(joined(harvests, apiaries))).toEqual({ other_id: 'harvest', hives: 'harvest' });
    expect(once(joined(apiaries, harvests))).toEqual({ id: 'harvest', hives: 'harvest' });
  });

  test('nothing is of a side whose rows were said to be rightly several', () => {
    const given = joined(apiaries, harvests);
    const noted = { ...given, steps: given.steps.map((each) => (each.kind === 'join' ? { ...each, accepted: 'each is meant' } : each)) };
    expect(once(noted)).toEqual({});
  });

  test('nothing is where one partner is kept for each row', () => {
    const given = joined(apiaries, harvests);
    const one = {
      ...given,
      steps: given.steps.map((each) =>
        each.kind === 'join' ? { ...each, one: [{ field: each.fields[0]?.id ?? '', descending: true }] } : each,
      ),
    };
    expect(once(one)).toEqual({});
  });

  test('a row that meets several is never missed', () => {
    const seen = { left: 0, right: 0, never: 0 };
    const binding = bindValues([], {}, 0n);
    fc.assert(
      fc.property(graph, (given) => {
        const trail = checkTrail(given.definition);
        for (const each of trail.steps) {
          const join = each.blocked || each.step.off ? undefined : checkedOf('join', each);
          if (!join || !join.step.keeps.met) continue;
          const { step, arriving } = join;
          const rowsAt = (slot: number) => evaluateTrail(given.definition, step.inputs[slot] ?? '', binding, tablesOf(given)).rows;
          const right = rowsAt(1).map((row) => new Map(step.fields.map(({ id, from }) => [id, row.get(from) ?? null])));
          const left = rowsAt(0);
          const condition = joinCondition(join, binding);
          const meets = left.map((own) => right.map((other) => evaluate(condition, rowOf(new Map([...own, ...other]), binding)) === true));
          const several = (of: readonly boolean[]) => of.filter(Boolean).length > 1;
          const own = new Set((arriving[0]?.schema.fields ?? []).map((field) => field.id));
          const numbers = join.schema.fields.filter((field) => isNumber(field.type));
          const [mine, theirs] = [numbers.filter(({ id }) => own.has(id)), numbers.filter(({ id }) => !own.has(id))];
          if (step.one === null && step.accepted === '' && meets.some(several)) {
            seen.left++;
            for (const field of mine) expect(field.oncePer).toBeDefined();
          }
          if (step.one === null && right.some((_row, at) => several(meets.map((of) => of[at] === true)))) {
            seen.right++;
            for (const field of theirs) expect(field.oncePer).toBeDefined();
          }
          if (numbers.every((field) => field.oncePer === undefined)) seen.never++;
        }
      }),
      { ...examples(400), ...(seed === 'random' ? {} : { seed: Number(seed) }) },
    );
    expect(seen.left).toBeGreaterThan(10);
    expect(seen.right).toBeGreaterThan(10);
    expect(seen.never).toBeGreaterThan(0);
  });
});

describe('further on', () => {
  const made = (definition: Definition, expression: string) => {
    const schema = resultStep(checkTrail(definition))?.schema ?? { fields: [] };
    const step = calculateStep(() => 'c', definition.result ?? '');
    return behind(definition, {
      ...step,
      fields: [{ id: 'made', name: 'made', expression: linkReferences(expression, { schema, parameters: [] }) }],
    });
  };
  const base = joined(harvests, apiaries);

  test('what is made of nothing else stands in as many rows', () => {
    expect(once(made(base, 'hives * 2'))).toMatchObject({ made: 'harvest' });
    expect(once(made(base, 'hives * kilos'))).not.toHaveProperty('made');
    expect(once(made(base, '3'))).not.toHaveProperty('made');
  });

  test('a summary that adds it up is told, and gives a field of its own', () => {
    const summed = (aggregate: 'sum' | 'greatest') => {
      const fields = resultStep(checkTrail(base))?.schema.fields ?? [];
      const hives = fields.find((each) => each.name === 'hives') ?? fail();
      const step = summariseStep(() => 'm', base.result ?? '');
      return behind(base, {
        ...step,
        id: 'sum',
        values: [{ id: 'v', name: 'all_hives', aggregate, expression: written(hives), among: nothing, order: nothing, separator: '' }],
      } as Step);
    };
    const codes = (of: Definition) => checkTrail(of).steps.flatMap((each) => each.problems.map(({ code }) => code));
    expect(codes(summed('sum'))).toContain('sum-repeats');
    expect(codes(summed('greatest'))).not.toContain('sum-repeats');
    expect(once(summed('sum'))).toEqual({});
  });
});

describe('the proof', () => {
  const given = joined(harvests, apiaries);
  const fieldsOf = (sheet: readonly SheetEntry[] = []) => reportFields(checkTrail({ ...given, sheet }));
  const hives = fieldsOf().find((each) => each.name === 'hives') ?? fail();
  const asked: Layout = { ...PLAIN_LAYOUT, totals: [{ field: hives.id, aggregate: 'sum' }] };

  test('leaves it out of the totals nobody named, and tells of one that is asked for', () => {
    const names = (layout: Layout) =>
      fittingLayout(layout, fieldsOf()).totals.map(({ field }) => fieldsOf().find((each) => each.id === field)?.name);
    expect(names(PLAIN_LAYOUT)).toEqual(['kilos']);
    expect(names(asked)).toEqual(['hives']);
    expect(layoutProblems(asked, fieldsOf())).toMatchObject([
      {
        code: 'sum-repeats',
        severity: 'warning',
        message: 'hives may stand once per harvest, and its sum counts it each time.',
        place: { field: hives.id },
      },
    ]);
    expect(layoutProblems({ ...asked, totals: [{ field: hives.id, aggregate: 'greatest' }] }, fieldsOf())).toEqual([]);
  });

  test('takes the sum out, or the word of who knows that it adds up', () => {
    const definition = { ...given, proof: asked };
    const trail = checkTrail(definition);
    const [found] = layoutProblems(asked, reportFields(trail));
    if (!found) throw new Error('it is told');
    const fixes = fixesOf(found, trail, () => undefined);
    expect(fixes.map((each) => each.says)).toEqual(['Take it out of the proof', 'It adds up over everything']);
    for (const { edits } of fixes) {
      const after = applyEdits(definition, edits as readonly Edit[]);
      expect(layoutProblems(after.proof, reportFields(checkTrail(after)))).toEqual([]);
    }
  });
});
