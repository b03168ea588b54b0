import fc from 'fast-check';
import type { Definition, Edit, JoinStep, ReadTable } from '../src';
import {
  applyEdits,
  bringInEdits,
  checkedStep,
  checkTrail,
  columnsByName,
  duplicateStepEdit,
  evaluateTrail,
  fieldsInRole,
  bindValues,
  handOverEdit,
  invertEdits,
  moveAlongEdits,
  moveUpEdits,
  NOTHING_KNOWN,
  NOTHING_ARRIVES,
  ofKind,
  repointEdits,
  summariseFirstEdits,
  tableStep,
  usersOf,
} from '../src';
import { graph, joinedTables } from './support/graphs';
import { table } from './support/harvests';

/** What the menu of a step does: each act is edits that can be undone exactly, and leaves a trail that can be read. */

const minting = () => {
  let count = 0;
  return () => `m${count++}`;
};

function undone(definition: Definition, edits: readonly Edit[]): void {
  const after = applyEdits(definition, edits);
  expect(applyEdits(after, invertEdits(edits))).toEqual(definition);
}

test('a step is duplicated, moved up its lane, and handed over, and each is undone to the same graph', () => {
  const done = { duplicated: 0, moved: 0 };
  fc.assert(
    fc.property(graph, ({ definition }) => {
      for (const { id } of definition.steps) {
        const copy = duplicateStepEdit(definition, minting(), id);
        if (copy) {
          undone(definition, [copy]);
          done.duplicated++;
        }
        const up = moveUpEdits(definition, id);
        if (up) {
          undone(definition, up);
          const order = applyEdits(definition, up).steps.find(
            (each) => each.id === definition.steps.find((step) => step.id === id)?.inputs[0],
          );
          expect(order?.inputs[0]).toBe(id);
          done.moved++;
        }
        undone(definition, [handOverEdit(definition, id)]);
      }
    }),
  );
  expect(done.duplicated).toBeGreaterThan(100);
  expect(done.moved).toBeGreaterThan(20);
});

test('a step moves several places along its lane, to where single moves take it, or not at all', () => {
  let far = 0;
  fc.assert(
    fc.property(graph, ({ definition }) => {
      for (const { id } of definition.steps)
        for (const places of [-2, 2]) {
          const edits = moveAlongEdits(definition, id, places);
          const once = moveAlongEdits(definition, id, places / 2);
          const twice = once && moveAlongEdits(applyEdits(definition, once), id, places / 2);
          expect(edits === undefined).toBe(twice === undefined);
          if (!edits || !once || !twice) continue;
          undone(definition, edits);
          expect(applyEdits(definition, edits)).toEqual(applyEdits(applyEdits(definition, once), twice));
          far++;
        }
    }),
    { numRuns: 200 },
  );
  expect(far).toBeGreaterThan(10);
});

const harvests: Definition = {
  version: 5,
  title: 'Harvests',
  description: '',
  tags: [],
  steps: [table],
  result: 't',
  parameters: [],
  calendar: { firstDayOfWeek: 1, firstMonthOfYear: 1, firstMonthOfSeason: 4, lastMonthOfSeason: 9 },
  sheet: [],
  order: [],
  brief: { request: '', items: [] },
  proof: { levels: [], rows: true, grandTotal: true, marks: [] },
};

const column = (name: string, sourceType: string, type: ReadTable['columns'][number]['type']) => ({
  name,
  sourceType,
  type,
  nullable: true,
  looseText: false,
  primaryKey: false,
  foreignKey: false,
  unique: false,
});

test('a table step reads another table: fields keep their ids, a retyped one is told, a gone one lists what uses it', () => {
  const pickings: ReadTable = {
    schema: 'coop',
    name: 'pickings',
    columns: [
      column('ID', 'integer', { kind: 'whole' }),
      column('weight', 'text', { kind: 'text' }),
      column('hive', 'integer', { kind: 'whole' }),
    ],
    keys: [],
  };
  const read = ofKind('table', table);
  if (!read) throw new Error('it is a table');
  const byName = columnsByName(read, pickings);
  expect([...byName]).toEqual([
    ['id', 'ID'],
    ['kilos', null],
    ['grade', null],
  ]);
  const edits = repointEdits(harvests, minting(), read, 's', pickings, new Map([...byName, ['kilos', 'weight']]));
  const after = applyEdits(harvests, edits);
  const now = ofKind('table', after.steps[0]);
  expect(now?.fields.map(({ id, column: name, type }) => [id, name, type.kind])).toEqual([
    ['id', 'ID', 'whole'],
    ['kilos', 'weight', 'text'],
    ['grade', 'grade', 'text'],
    ['m0', 'hive', 'whole'],
  ]);
  undone(harvests, edits);
  const asking: Definition = {
    ...harvests,
    steps: [
      table,
      {
        id: 'c',
        kind: 'criteria',
        name: '',
        off: false,
        inputs: ['t'],
        head: 'every one',
        clauses: [{ id: 'x', kind: 'condition', off: false, field: 'grade', operator: 'is', operands: [], andNulls: false }],
      },
    ],
    result: 'c',
  };
  expect(usersOf(asking, new Set(['grade']))).toEqual(['c']);
  expect(usersOf(asking, new Set(['id']))).toEqual([]);
});

test('a table that is brought in comes with its join in one batch, and names that clash get the table in front', () => {
  const mint = minting();
  const other = tableStep(mint, 's', {
    schema: 'coop',
    name: 'prices',
    columns: [column('id', 'integer', { kind: 'whole' }), column('price', 'numeric(8,2)', { kind: 'decimal', precision: 8, scale: 2 })],
    keys: [],
  });
  const { edits, step } = bringInEdits(mint, harvests, 't', { table: other }, NOTHING_KNOWN);
  const after = applyEdits(harvests, edits);
  const join = ofKind(
    'join',
    after.steps.find((each) => each.id === step),
  );
  expect([after.result, join?.inputs, join?.fields.map((each) => each.name)]).toEqual([step, ['t', other.id], ['prices_id', 'price']]);
  undone(harvests, edits);

  // In a role of its own, what was made says so; a name somebody typed stays.
  const trail = checkTrail(after);
  const arriving = (of: string) => checkedStep(trail, of) ?? NOTHING_ARRIVES;
  if (!join) throw new Error('no join was made');
  const named = (fields: JoinStep['fields']) => fields.map((each) => each.name);
  const winter = fieldsInRole(join, [arriving('t'), arriving(other.id)], { row: 'winter price', rows: 'winter prices' });
  expect(named(winter)).toEqual(['winter_price_id', 'price']);
  const typed = { ...join, fields: join.fields.map((each) => ({ ...each, name: each.name === 'price' ? 'price' : 'own_id' })) };
  expect(fieldsInRole(typed, [arriving('t'), arriving(other.id)], { row: 'winter', rows: 'winters' })).toBe(typed.fields);
});

test('a second side that is summarised first multiplies no row any more', () => {
  let cured = 0;
  fc.assert(
    fc.property(joinedTables, ({ definition, rows }) => {
      const trail = checkTrail(definition);
      const made = summariseFirstEdits(minting(), trail, 'k');
      if (!made) return;
      const after = applyEdits(definition, made.edits);
      undone(definition, made.edits);
      const told = (given: Definition) =>
        evaluateTrail(given, 'k', bindValues([], {}, 0n), (_source, _schema, name) => rows[name] ?? []).rows.length;
      const left = rows.t0?.length ?? 0;
      const right = rows.t1?.length ?? 0;
      expect(told(after)).toBeLessThanOrEqual(left + right);
      if (told(definition) > told(after)) cured++;
    }),
  );
  expect(cured).toBeGreaterThan(5);
});
