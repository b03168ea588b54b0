import { checkExpression, datetime, decimal, text } from '../src';
import { FUNCTIONS } from '../src/expressions/functions';
import { OTHER_WORDS } from '../src/expressions/functions/other-words';

const field = (name: string, type: typeof text) => ({
  id: name,
  name,
  type,
  role: 'attribute' as const,
  origin: { step: 's', column: name },
  forUseOnly: false,
});
const scope = { schema: { fields: [field('kilos', decimal(8, 2)), field('grade', text)] }, parameters: [] };

test.each([...OTHER_WORDS])('%s is no function, and what is written instead is told', (word, { write, instead }) => {
  const [found] = checkExpression(`${word}(grade)`, scope).problems;
  expect(found).toMatchObject({ code: 'function-unknown', expected: write });
  expect(found?.instead).toBe(instead);
});

test('none of these words is a function, and what stands in their place is one', () => {
  const names = FUNCTIONS.map(({ name }) => name);
  expect([...OTHER_WORDS.keys()].filter((each) => names.includes(each))).toEqual([]);
  expect([...OTHER_WORDS.values()].flatMap(({ instead }) => (instead === undefined || names.includes(instead) ? [] : [instead]))).toEqual(
    [],
  );
});

test('the parts of a day that are told can be taken', () => {
  const at = { schema: { fields: [field('at', datetime)] }, parameters: [] };
  const parts = [...OTHER_WORDS.values()].flatMap(({ write }) => (write.startsWith('extract(') ? [write] : []));
  expect(parts.length).toBeGreaterThan(5);
  for (const write of parts) expect(checkExpression(write.replace('…', 'at'), at).problems).toEqual([]);
});

test('a word is known whatever its case, and a misspelt function is still told by the nearest', () => {
  expect(checkExpression('LEN(grade)', scope).problems[0]?.instead).toBe('char_length');
  expect(checkExpression('uper(grade)', scope).problems[0]?.instead).toBe('upper');
});
