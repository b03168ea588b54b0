import type { Definition, Parameter, Step } from '../src';
import { applyEdits, bindValues, checkTrail, evaluateTrail, sameCriteriaEdits } from '../src';
import { harvests, rows, trailOf } from './support/apiaries';
import { criteria } from './support/harvests';

describe('the same criteria for the other inputs of a union', () => {
  const other: Step = {
    ...harvests,
    id: 'r',
    fields: harvests.fields.map((each) => ({ ...each, id: `r-${each.id}`, column: each.column === 'kilos' ? 'weight' : each.column })),
    taken: ['r-id', 'r-kilos'],
    keys: [],
  };
  const least: Parameter = {
    id: 'p',
    name: 'least',
    type: 'decimal',
    takes: 'one',
    leftBlank: 'condition is off',
    startsAs: ['5'],
    hint: '',
  };
  const kept: Step = {
    id: 'c',
    kind: 'criteria',
    name: '',
    off: false,
    inputs: ['h'],
    head: 'every one',
    clauses: [
      {
        id: 'c1',
        kind: 'condition',
        off: false,
        field: 'kilos',
        operator: 'at least',
        operands: [{ kind: 'parameter', id: 'p' }],
        andNulls: false,
      },
      {
        id: 'c2',
        kind: 'expression',
        off: false,
        expression: {
          text: 'kilos * 2 < :least + 100',
          refs: [
            { kind: 'field', id: 'kilos', from: 0, to: 5 },
            { kind: 'parameter', id: 'p', from: 12, to: 18 },
          ],
        },
      },
      { id: 'c3', kind: 'condition', off: false, field: 'region', operator: 'has a value', operands: [], andNulls: false },
    ],
  };
  const union: Step = {
    id: 'n',
    kind: 'union',
    name: '',
    off: false,
    inputs: ['c', 'r'],
    once: false,
    fields: [
      { id: 'f1', name: 'id', from: ['id', 'r-id'], as: null },
      { id: 'f2', name: 'kilos', from: ['kilos', 'r-kilos'], as: null },
      { id: 'f3', name: 'region', from: ['region', null], as: null },
    ],
    source: null,
  };
  const given: Definition = { ...trailOf(), steps: [harvests, other, kept, union], result: 'n', parameters: [least] };
  const minting = () => {
    let count = 0;
    return () => `m${count++}`;
  };

  test('asks about the fields that are lined up, in their own names, and says what it left out', () => {
    const made = sameCriteriaEdits(minting(), checkTrail(given), 'c', 'its own');
    expect(made?.leftOut).toEqual([{ rows: 'harvests', clauses: 1 }]);
    const after = applyEdits(given, made?.edits ?? []);
    const copy = after.steps.find((each) => each.inputs[0] === 'r') as Step & { kind: 'criteria' };
    expect(
      copy.clauses.map((each) => (each.kind === 'expression' ? each.expression.text : each.kind === 'condition' && each.field)),
    ).toEqual(['r-kilos', 'weight * 2 < :least + 100']);
    expect(after.steps.at(-1)?.inputs).toEqual(['c', copy.id]);
    expect(checkTrail(after).problems.filter((each) => each.severity === 'error')).toEqual([]);
    expect(evaluateTrail(after, 'n', bindValues([least], {}, 0n), () => rows).rows.length).toBeGreaterThan(0);
  });

  test('with parameters of its own, under free names', () => {
    const made = sameCriteriaEdits(minting(), checkTrail(given), 'c', 'new');
    const after = applyEdits(given, made?.edits ?? []);
    expect(after.parameters.map((each) => each.name)).toEqual(['least', 'least_2']);
    expect(JSON.stringify(after.steps.find((each) => each.inputs[0] === 'r'))).toContain('weight * 2 < :least_2 + 100');
  });

  test('is offered only where a union is behind', () => {
    expect(sameCriteriaEdits(minting(), checkTrail(trailOf(criteria('c', 'h', 'kilos > 1'))), 'c', 'its own')).toBeUndefined();
  });
});
