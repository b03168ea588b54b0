import fc from 'fast-check';
import type { Schema, Value } from '../src';
import { bindValues, checkExpression, COMMON_CALENDAR, date, evaluate, rowOf } from '../src';
import { NOW } from './support/rows';

const schema: Schema = {
  fields: [{ id: 'd', name: 'd', type: date, role: 'date', origin: { step: 's', column: 'd' }, forUseOnly: false }],
};

function valueOf(text: string, day: number, firstMonthOfYear: number): Value {
  const calendar = { ...COMMON_CALENDAR, firstMonthOfYear };
  const { expression, problems } = checkExpression(text, { schema, parameters: [], calendar });
  if (!expression) throw new Error(JSON.stringify(problems));
  return evaluate(expression, rowOf(new Map([['d', day]]), bindValues([], {}, NOW)));
}

test('the number of a quarter, its pattern and its first day speak of the same quarters, in whatever month years begin', () => {
  fc.assert(
    fc.property(fc.integer({ min: -700_000, max: 2_900_000 }), fc.integer({ min: 1, max: 12 }), (day, first) => {
      const quarter = String((valueOf('extract(quarter from d)', day, first) as { digits: bigint }).digits);
      expect(['1', '2', '3', '4']).toContain(quarter);
      expect(valueOf("format_date(d, 'Q')", day, first)).toBe(quarter);
      const months = valueOf('months_between(start_of_year(d), start_of_quarter(d))', day, first) as { digits: bigint };
      expect(String(months.digits / 3n + 1n)).toBe(quarter);
    }),
  );
});
