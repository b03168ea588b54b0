import { readCommas } from '../src';

test('a comma is the decimal point, or groups digits, or may be either', () => {
  expect(readCommas('7,5')).toEqual(['7.5']);
  expect(readCommas('-1.234,5')).toEqual(['-1234.5']);
  expect(readCommas('1,000')).toEqual(['1000', '1.000']);
  expect(readCommas('12,345,678.9')).toEqual(['12345678.9']);
  expect(readCommas('1 234,5')).toEqual(['1234.5']);
  for (const none of ['5, 8', '7.5', '1,2,3', '7,', ',5', 'a,b', '1000', '']) expect(readCommas(none)).toEqual([]);
});
