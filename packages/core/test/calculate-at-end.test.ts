import type { Definition } from '../src';
import { applyEdits, calculatedAtEnd, checkTrail, notCalculated, resultStep } from '../src';
import { definition } from './support/harvests';

/** A field of a proof that is an expression is calculated behind everything that is handed over. */

let count = 0;
const mint = () => `new${++count}`;

function withMade(of: Definition, text: string) {
  const trail = checkTrail(of);
  const made = calculatedAtEnd(trail, text, mint);
  if (!made) throw new Error(`not calculated: ${text}`);
  const after = checkTrail(applyEdits(of, made.edits));
  return { made, after, handed: resultStep(after)?.schema.fields.find(({ id }) => id === made.field.id) };
}

test('is made in a step of its own, and the field is as it was told to be', () => {
  const { made, after, handed } = withMade(definition, 'kilos * 2');
  expect(after.steps.at(-1)).toMatchObject({ step: { kind: 'calculate', id: after.definition.result }, problems: [] });
  expect(handed).toMatchObject({ name: 'kilos_2', type: made.field.type, role: made.field.role });
  expect(made.field.aggregates).toContain('sum');
});

test('goes into the last step where that calculates, under a name that is free', () => {
  const first = withMade(definition, 'kilos * 2');
  const second = withMade(first.after.definition, 'kilos*2');
  expect(second.after.steps).toHaveLength(first.after.steps.length);
  expect(second.handed?.name).toBe('kilos_2_2');
  const off = {
    ...first.after.definition,
    steps: first.after.definition.steps.map((each) => ({ ...each, off: each.kind === 'calculate' })),
  };
  expect(withMade(off as Definition, 'kilos * 3').after.steps).toHaveLength(first.after.steps.length + 1);
});

test('refers to fields and parameters by their ids, so that new names change nothing', () => {
  const { made } = withMade(definition, 'upper(grade)');
  const [edit] = made.edits;
  expect(JSON.stringify(edit)).toContain('"kind":"field"');
});

test('is not made where it cannot be calculated, and says why', () => {
  const trail = checkTrail(definition);
  expect(calculatedAtEnd(trail, 'kilos +', mint)).toBeUndefined();
  expect(notCalculated(trail, 'kilos + grade')?.severity).toBe('error');
  expect(notCalculated(trail, 'no_such_field')?.message).toContain('no_such_field');
  expect(notCalculated(trail, 'kilos * 2')).toBeUndefined();
  const nothing = checkTrail({ ...definition, steps: [], result: null });
  expect(calculatedAtEnd(nothing, '1', mint)).toBeUndefined();
  expect(notCalculated(nothing, '1')?.code).toBe('result-missing');
});
