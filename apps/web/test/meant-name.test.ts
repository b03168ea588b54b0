import { meantName } from '../src/bench/meant-name';

const all = ['kilos', 'kilos_paid', 'share of kilos', 'Net weight', 'id', 'Id', 'p1'].map((name) => ({ name }));
const names = (typed: string, expressions = true) => meantName(all, typed, expressions).found.map((each) => each.name);
const called = (typed: string) => meantName(all, typed, true).called?.name;
const expression = (typed: string, expressions = true) => meantName(all, typed, expressions).expression;

describe('what is typed where a name belongs', () => {
  test('a whole name is meant, whatever its case and the blanks around it', () => {
    expect(called(' KILOS ')).toBe('kilos');
    expect(called('net weight')).toBe('Net weight');
  });

  test('of two names that differ in case the one written so is meant', () => {
    expect(called('Id')).toBe('Id');
    expect(called('id')).toBe('id');
  });

  test('a part of a name means nothing yet, and finds: first what is called so, then what begins so', () => {
    expect(meantName(all, 'kil', true)).toEqual({ found: [{ name: 'kilos' }, { name: 'kilos_paid' }, { name: 'share of kilos' }] });
    expect(names('kilos_paid')).toEqual(['kilos_paid']);
    expect(names('of kilos')).toEqual(['share of kilos']);
  });

  test('nothing typed finds all and means none', () => {
    expect(meantName(all, '  ', true)).toEqual({ found: all });
  });

  test('an expression is meant although names have it in them', () => {
    expect(expression('1')).toBe('1');
    expect(expression('kilos * 2')).toBe('kilos * 2');
  });

  test('a text no name has in it is kept as it is, to be mended by its message', () => {
    expect(expression('kiloz')).toBe('kiloz');
    expect(expression('kilos >=')).toBe('kilos >=');
  });

  test('what is only begun is no expression, and where none belongs none is meant', () => {
    expect(expression('share of')).toBeUndefined();
    expect(expression('kilos * 2', false)).toBeUndefined();
  });
});
