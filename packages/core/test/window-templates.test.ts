import fc from 'fast-check';
import type { Decimal, Value } from '../src';
import {
  addDecimals,
  bindValues,
  checkExpression,
  decimal,
  evaluateTrail,
  needsOrder,
  ofWhole,
  rescale,
  WINDOW_TEMPLATES,
  windowTemplatePattern,
  writerOf,
  writeValue,
  writeWindowTemplate,
} from '../src';
import { field, withFields } from './support/calculated';
import { examples } from './support/examples';
import { schema } from './support/wire-rows';

const binding = bindValues([], {}, 0n);

describe('what is said in words', () => {
  test.each(WINDOW_TEMPLATES.map((each) => [each]))('the %s is an expression that checks', (template) => {
    const text = writeWindowTemplate(template, { of: 'd2', each: 't1', by: 'day1', key: 'w1' });
    expect(checkExpression(text, { schema, parameters: [] }).problems).toEqual([]);
    expect(text.includes('order by day1, w1')).toBe(needsOrder(template));
  });

  test('shares add up to the whole, whatever they are of', () => {
    const shares = withFields(field('share', writeWindowTemplate('share of the total', { of: 'kilos' })));
    const shown = windowTemplatePattern('share of the total') ?? '';
    const kilos = fc.array(fc.integer({ min: 1, max: 99_999_999 }), { minLength: 1, maxLength: 60 });
    fc.assert(
      fc.property(kilos, (given) => {
        const rows = given.map(
          (each, at) =>
            new Map<string, Value>([
              ['id', ofWhole(BigInt(at))],
              ['kilos', { digits: BigInt(each), scale: 2 }],
            ]),
        );
        const made = evaluateTrail(shares, 'k', binding, () => rows).rows.map((row) => row.get('f-share') as Decimal);
        const sum = made.reduce(addDecimals, { digits: 0n, scale: 2 });
        expect(writeValue(decimal(38, 10), rescale(sum, 10))).toBe('1.0000000000');
        expect(writerOf({ type: decimal(38, 14), role: 'measure' }, { pattern: shown })(writeValue(decimal(38, 14), sum))).toBe('100.00 %');
      }),
      examples(40),
    );
  });
});
