import type { Definition, Step, TableStep } from '../src';
import { checkedStep, checkTrail, datasetSentence, knownBy, sentenceText, tellingKeys } from '../src';
import { definition, ending, minKilos, table } from './support/harvests';

/** What tells rows apart, and what follows from it: keys of the source do, a role given to a field does not. */

const asCode = { ...(table as TableStep), taken: ['id', 'grade'] };
/** Grade stands as a code of another table: nothing sums it, and many rows have the same. */
const withForeignKey: TableStep = {
  ...asCode,
  fields: asCode.fields.map((each) => (each.id === 'grade' ? { ...each, role: 'key' } : each)),
};
const trailOf = (...steps: readonly Step[]) => checkTrail(ending({ ...definition, steps, parameters: [] }));
const knownIn = (step: TableStep) => {
  const { grain, schema } = checkedStep(trailOf(step), 't') ?? {};
  return grain && schema && knownBy(grain, schema);
};

test('a row is known by a key of its table, never by a reference to another one', () => {
  expect(knownIn(withForeignKey)).toEqual(['id']);
  expect(knownIn({ ...withForeignKey, keys: [] })).toEqual([]);
  expect(knownIn({ ...withForeignKey, keys: [['id', 'grade']] })).toEqual(['id', 'grade']);
});

test('unique columns tell rows apart where none of them may be null', () => {
  const columns = [
    { name: 'code', nullable: false },
    { name: 'old_code', nullable: true },
  ].map((each) => ({ ...each, sourceType: 'text', type: { kind: 'text' as const }, role: 'code' as const, looseText: false }));
  const unique = (...named: string[]) => ({ columns: named, primary: false });
  expect(tellingKeys({ columns, keys: [unique('code'), unique('old_code'), unique('code', 'old_code')] })).toEqual([['code']]);
});

const numbered = (by: string): Step => ({
  id: 'k',
  kind: 'calculate',
  name: '',
  off: false,
  inputs: ['t'],
  fields: [{ id: 'place', name: 'place', expression: { text: `row_number() over (order by ${by})`, refs: [] } }],
});
const hints = (by: string) => trailOf(withForeignKey, numbered(by)).problems.flatMap(({ code }) => (code === 'order-ties' ? [code] : []));

test('an order that leaves rows equal is said, also where it is by a reference to another table', () => {
  expect(hints('grade')).toEqual(['order-ties']);
  expect(hints('grade, id')).toEqual([]);
  expect(hints('id')).toEqual([]);
});

test('a parameter that stands in a calculated field only has its slot in the sentence, and its type', () => {
  const expression = { text: 'kilos >= :min_kilos', refs: [{ kind: 'parameter' as const, id: 'p', from: 9, to: 19 }] };
  const heavy: Step = { ...(numbered('id') as object), fields: [{ id: 'heavy', name: 'heavy', expression }] } as unknown as Step;
  const asking: Definition = ending({ ...definition, steps: [table, heavy], parameters: [minKilos] });
  const trail = checkTrail(asking);
  expect(trail.problems).toEqual([]);
  expect(sentenceText(datasetSentence(trail, { p: ['7.5'] }))).toContain('7.5');
  const slots = datasetSentence(trail, {}).flatMap((each) => (typeof each === 'object' && 'parameter' in each ? [each.parameter.id] : []));
  expect(slots).toEqual(['p']);
});
