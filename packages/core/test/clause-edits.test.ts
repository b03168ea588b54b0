import type { Clause, Condition, CriteriaStep, Definition, Edit } from '../src';
import {
  addClauseAfter,
  applyEdits,
  clauseLines,
  editSentence,
  groupClause,
  invertEdits,
  moveClause,
  parameterToValues,
  replaceClause,
  ungroupClauses,
  valuesToParameter,
} from '../src';
import { definition as plain, ending, minKilos, table } from './support/harvests';

const condition = (id: string, ...values: string[]): Condition => ({
  id,
  kind: 'condition',
  off: false,
  field: 'kilos',
  operator: 'at least',
  operands: values.map((text) => ({ kind: 'value', text })),
  andNulls: false,
});
const inner = [condition('b', '2'), condition('c', '3')];
const group: Clause = { id: 'g', kind: 'group', off: false, head: 'at least one', clauses: inner };
const step: CriteriaStep = {
  id: 'k',
  kind: 'criteria',
  name: '',
  off: false,
  inputs: ['t'],
  head: 'every one',
  clauses: [condition('a', '1'), group, condition('d', '4')],
};
const dataset: Definition = ending({ ...plain, steps: [table, step], parameters: [] });
let minted = 0;
const mint = () => `m${++minted}`;

const stepOf = (definition: Definition) => definition.steps[1] as CriteriaStep;
const order = (definition: Definition) =>
  clauseLines('every one', stepOf(definition).clauses).map(({ clause, number }) => `${number} ${clause.id}`);

test.each<readonly [string, Edit | undefined, readonly string[]]>([
  ['replace one inside a group', replaceClause(step, 'b', [condition('x', '9')]), ['1 a', '2 g', '2.1 x', '2.2 c', '3 d']],
  ['remove one inside a group', replaceClause(step, 'b', []), ['1 a', '2 g', '2.1 c', '3 d']],
  ['remove one at the top', replaceClause(step, 'a', []), ['1 g', '1.1 b', '1.2 c', '2 d']],
  ['add one behind an inner one', addClauseAfter(step, inner[0], condition('x')), ['1 a', '2 g', '2.1 b', '2.2 x', '2.3 c', '3 d']],
  ['add one behind another', addClauseAfter(step, step.clauses[0], condition('x')), ['1 a', '2 x', '3 g', '3.1 b', '3.2 c', '4 d']],
  ['add one at the end', addClauseAfter(step, undefined, condition('x')), ['1 a', '2 g', '2.1 b', '2.2 c', '3 d', '4 x']],
  ['move one down', moveClause(step, 'a', 1), ['1 g', '1.1 b', '1.2 c', '2 a', '3 d']],
  ['move an inner one up', moveClause(step, 'c', -1), ['1 a', '2 g', '2.1 c', '2.2 b', '3 d']],
  ['put the inner ones in the place of their group', ungroupClauses(step, group), ['1 a', '2 b', '3 c', '4 d']],
])('can %s, and back', (_, edit, expected) => {
  if (!edit) throw new Error('there is no such edit');
  const after = applyEdits(dataset, [edit]);
  expect(order(after)).toEqual(expected);
  expect(applyEdits(after, invertEdits([edit]))).toEqual(dataset);
  expect(editSentence(edit, dataset)).toMatch(/clause|changed/);
});

test('a clause put into a group stands before an empty one', () => {
  const edit = groupClause(mint, step, condition('a', '1'));
  expect(
    edit &&
      order(applyEdits(dataset, [edit]))
        .slice(0, 3)
        .map((each) => each.split(' ')[0]),
  ).toEqual(['1', '1.1', '1.2']);
});

test('there is no moving beyond the ends, and nothing to do with a clause that is gone', () => {
  expect(moveClause(step, 'a', -1)).toBeUndefined();
  expect(moveClause(step, 'c', 1)).toBeUndefined();
  expect(replaceClause(step, 'gone', [])).toBeUndefined();
});

test('values become a parameter that starts as them, and values again', () => {
  const [clause] = step.clauses as [Condition];
  const kilos = {
    id: 'kilos',
    name: 'kilos',
    type: minKilos.type === 'decimal' ? ({ kind: 'decimal', precision: 8, scale: 2 } as const) : ({ kind: 'text' } as const),
    role: 'measure' as const,
    origin: { step: 't', column: 'kilos' },
    forUseOnly: false,
  };
  const edits = valuesToParameter(mint, dataset, step, clause, kilos) ?? [];
  const asking = applyEdits(dataset, edits);
  expect(asking.parameters).toMatchObject([{ name: 'kilos', type: 'decimal', takes: 'one', startsAs: ['1'] }]);
  const asked = stepOf(asking).clauses[0] as Condition;
  expect(asked.operands).toEqual([{ kind: 'parameter', id: asking.parameters[0]?.id }]);
  const back = applyEdits(asking, parameterToValues(asking, stepOf(asking), asked, ['1']) ?? []);
  expect(back).toEqual(dataset);
  expect(valuesToParameter(mint, asking, stepOf(asking), asked, kilos)).toBeUndefined();
});

test('a parameter somebody else uses stays when one clause takes values instead', () => {
  const ask = (id: string): Condition => ({ ...condition(id), operands: [{ kind: 'parameter', id: minKilos.id }] });
  const twice: Definition = ending({ ...plain, steps: [table, { ...step, clauses: [ask('a'), ask('b')] }], parameters: [minKilos] });
  const edits = parameterToValues(twice, stepOf(twice), ask('a'), ['5']) ?? [];
  expect(applyEdits(twice, edits).parameters).toEqual([minKilos]);
});
