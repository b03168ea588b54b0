import fc from 'fast-check';
import type { Parameter } from '../src';
import {
  bindDefinition,
  checkTrail,
  bindValues,
  COMMON_CALENDAR,
  formatDate,
  parseDate,
  parseRelativeDay,
  parseStretch,
  RELATIVE_UNITS,
  RELATIVE_WHICH,
  resolveRelativeDay,
  resolveStretch,
  valuesText,
  writeRelativeDay,
  writeStretch,
} from '../src';
import { criteria, definition, ending, minKilos } from './support/harvests';

const day = (iso: string) => parseDate(iso) ?? Number.NaN;
const at = (iso: string) => BigInt(day(iso)) * 86_400_000_000n + 36_000_000_000n;
const parameter = (given: Partial<Parameter>): Parameter => ({
  id: 'p',
  name: 'p',
  type: 'text',
  takes: 'one',
  leftBlank: 'condition is off',
  startsAs: [],
  hint: '',
  ...given,
});

describe('a relative stretch', () => {
  test.each([
    ['this month', '2025-02-14', '2025-02-01', '2025-02-28'],
    ['this month so far', '2025-02-14', '2025-02-01', '2025-02-14'],
    ['last month', '2025-03-31', '2025-02-01', '2025-02-28'],
    ['last 3 months', '2025-03-31', '2024-12-01', '2025-02-28'],
    ['last 3 months, whole ones', '2025-03-31', '2024-12-01', '2025-02-28'],
    ['last 3 months so far', '2025-03-31', '2025-01-01', '2025-03-31'],
    ['next 2 quarters', '2025-12-31', '2026-01-01', '2026-06-30'],
    ['this week', '2025-01-01', '2024-12-30', '2025-01-05'],
    ['last 7 days', '2024-03-01', '2024-02-23', '2024-02-29'],
    ['last 7 days so far', '2024-03-01', '2024-02-24', '2024-03-01'],
    ['this year', '2024-02-29', '2024-01-01', '2024-12-31'],
    ['this season', '2025-06-10', '2025-04-01', '2025-09-30'],
    ['this season so far', '2025-06-10', '2025-04-01', '2025-06-10'],
    ['this season so far', '2025-11-25', '2025-04-01', '2025-09-30'],
    ['last season', '2025-11-25', '2024-04-01', '2024-09-30'],
    ['this season', '2025-03-31', '2024-04-01', '2024-09-30'],
    ['next season', '2025-11-25', '2026-04-01', '2026-09-30'],
  ])('“%s” seen from %s is %s until %s', (words, today, from, until) => {
    const stretch = parseStretch(words);
    const days = stretch && resolveStretch(stretch, day(today), COMMON_CALENDAR);
    expect(days && [formatDate(days.from), formatDate(days.until)]).toEqual([from, until]);
  });

  test('follows the dataset in when weeks, years and seasons begin', () => {
    const calendar = { firstDayOfWeek: 7, firstMonthOfYear: 7, firstMonthOfSeason: 11, lastMonthOfSeason: 2 };
    const days = (words: string) => {
      const stretch = parseStretch(words);
      const found = stretch && resolveStretch(stretch, day('2025-01-01'), calendar);
      return found && [formatDate(found.from), formatDate(found.until)];
    };
    expect(days('this week')).toEqual(['2024-12-29', '2025-01-04']);
    expect(days('this year')).toEqual(['2024-07-01', '2025-06-30']);
    expect(days('this season')).toEqual(['2024-11-01', '2025-02-28']);
  });

  test.each([
    ['this month', '9999-12-31', ['9999-12-01', '9999-12-31']],
    ['this quarter', '9999-10-01', ['9999-10-01', '9999-12-31']],
    ['this year so far', '9999-12-31', ['9999-01-01', '9999-12-31']],
    ['this season', '9999-12-31', ['9999-04-01', '9999-09-30']],
    ['last 2 days', '9999-12-31', ['9999-12-29', '9999-12-30']],
    ['next day', '9999-12-31', undefined],
    ['this week', '0001-01-01', ['0001-01-01', '0001-01-07']],
    ['last day', '0001-01-01', undefined],
    ['this season', '0001-01-01', undefined],
  ])('%s at the calendar’s edge, on %s, is %j', (words, today, expected) => {
    const found = parseStretch(words);
    const days = found && resolveStretch(found, day(today), COMMON_CALENDAR);
    expect(days && [formatDate(days.from), formatDate(days.until)]).toEqual(expected);
  });

  test.each(['this 3 months', 'next month so far', 'last 0 days', 'last 5000 days', 'last moon', 'month', ''])('“%s” is none', (words) => {
    expect(parseStretch(words)).toBeUndefined();
  });

  const stretch = fc
    .record({
      which: fc.constantFrom(...RELATIVE_WHICH),
      count: fc.integer({ min: 1, max: 1000 }),
      unit: fc.constantFrom(...RELATIVE_UNITS),
      soFar: fc.boolean(),
    })
    .map((each) => ({ ...each, count: each.which === 'this' ? 1 : each.count, soFar: each.which !== 'next' && each.soFar }));

  test('is read back as it is written, and does not end before it begins', () => {
    fc.assert(
      fc.property(stretch, fc.integer({ min: day('1900-01-01'), max: day('2100-12-31') }), (each, today) => {
        expect(parseStretch(writeStretch(each))).toEqual(each);
        const days = resolveStretch(each, today, COMMON_CALENDAR);
        expect(days && days.from <= days.until).toBe(true);
        for (const edge of ['start', 'end'] as const) {
          const relative = { at: edge, of: each };
          expect(parseRelativeDay(writeRelativeDay(relative))).toEqual(relative);
          expect(resolveRelativeDay(relative, today, COMMON_CALENDAR)).toBe(edge === 'start' ? days?.from : days?.until);
        }
      }),
    );
  });
});

describe('binding', () => {
  test('resolves relative dates at one moment, and records what they came to', () => {
    const period = parameter({ type: 'date', takes: 'range', startsAs: ['last 3 months'] });
    expect(bindValues([period], {}, at('2025-03-31')).used).toEqual({ p: ['2024-12-01', '2025-02-28'] });
    const single = parameter({ type: 'date', startsAs: ['start of this season'] });
    expect(bindValues([single], {}, at('2025-11-25')).used).toEqual({ p: ['2025-04-01'] });
    const ends = parameter({ type: 'date', takes: 'range' });
    expect(bindValues([ends], { p: ['end of last year', 'today plus 1 day'] }, at('2025-03-31')).used).toEqual({
      p: ['2024-12-31', '2025-04-01'],
    });
  });

  test('means whole days where the end of a date-time range has no time', () => {
    const period = parameter({ type: 'date-time', takes: 'range' });
    const used = (...given: string[]) => bindValues([period], { p: given }, at('2025-06-10')).used.p;
    expect(used('2025-09-30', '2025-09-30')).toEqual(['2025-09-30 00:00:00', '2025-09-30 23:59:59.999999']);
    expect(used('2025-09-30 08:00', '2025-09-30 09:00')).toEqual(['2025-09-30 08:00:00', '2025-09-30 09:00:00']);
    expect(used('this month')).toEqual(['2025-06-01 00:00:00', '2025-06-30 23:59:59.999999']);
  });

  test('takes what an expression gives where no value is given', () => {
    const season = parameter({ type: 'whole number', startsBy: 'expression', startsAs: ['extract(year from current_date) - 1'] });
    const bind = (given: Record<string, string[]>) =>
      bindDefinition({ parameters: [season], calendar: COMMON_CALENDAR }, given, at('2025-06-10'));
    expect(bind({}).used).toEqual({ p: ['2024'] });
    expect(bind({ p: ['2021'] }).used).toEqual({ p: ['2021'] });
    const wrong = { ...season, startsAs: ["'x'"] };
    expect(bindDefinition({ parameters: [wrong], calendar: COMMON_CALENDAR }, {}, 0n).problems.map((each) => each.code)).toContain(
      'start-type',
    );
  });

  test.each([
    [{ type: 'whole number', limits: { least: '1', greatest: '10' } }, ['0'], 'limit-least'],
    [{ type: 'whole number', limits: { least: '1', greatest: '10' } }, ['11'], 'limit-greatest'],
    [{ type: 'text', limits: { fits: 'FN-%' } }, ['OV-01'], 'limit-fits'],
    [{ type: 'text', takes: 'several', limits: { most: 2 } }, ['a', 'b', 'c'], 'limit-most'],
    [{ type: 'date', limits: { greatest: 'today' } }, ['2025-06-11'], 'limit-greatest'],
    [{ type: 'date', takes: 'range' }, ['2025-06-11', '2025-06-10'], 'range-reversed'],
    [{ type: 'whole number' }, ['1,2'], 'value-wrong-type'],
    [{ type: 'text' }, ['a', 'b'], 'value-several'],
    [{ type: 'text', leftBlank: 'must be filled' }, [''], 'value-required'],
  ] as const)('%j given %j is told as %s', (given, values, code) => {
    const binding = bindValues([parameter(given as Partial<Parameter>)], { p: values }, at('2025-06-10'));
    expect(binding.problems.map((each) => each.code)).toEqual([code]);
    expect(binding.bound.size).toBe(0);
  });

  test('says a limit in the words the analyst gave it', () => {
    const limits = { least: '1', message: 'Seasons begin with 1.' };
    const [found] = bindValues([parameter({ type: 'whole number', limits })], { p: ['0'] }, 0n).problems;
    expect(found?.message).toBe('Seasons begin with 1.');
  });

  test('takes texts with quotes, percent signs, line breaks and other scripts as they are', () => {
    const odd = ["O'Hara", '100 %', 'two\nlines', 'Жук', '蜂', '"'];
    const bound = bindValues([parameter({ takes: 'several' })], { p: odd }, 0n).bound.get('p');
    expect(bound).toEqual({ takes: 'several', values: odd });
  });

  test('takes a list of 100 000 values and refuses a longer one', () => {
    const list = Array.from({ length: 100_000 }, (_, index) => String(index));
    const several = parameter({ type: 'whole number', takes: 'several' });
    expect(bindValues([several], { p: list }, 0n).problems).toEqual([]);
    expect(bindValues([several], { p: [...list, 'x'] }, 0n).problems.map((each) => each.code)).toEqual(['list-too-long']);
  });
});

describe('a finding tells', () => {
  const found = (...parameters: Parameter[]) =>
    checkTrail({ ...definition, parameters })
      .problems.filter((each) => each.place.parameter !== undefined)
      .map((each) => each.code);
  const looked = (by: string) => ({
    from: 'field' as const,
    field: 'kilos',
    label: null,
    sorted: 'by value' as const,
    narrowedBy: [{ parameter: by, field: 'id' }],
  });

  test('a parameter nobody uses, and a start that breaks its own limit', () => {
    expect(found(parameter({ type: 'decimal', name: 'other', id: 'o' }), minKilos)).toEqual(['parameter-unused']);
    expect(found({ ...minKilos, limits: { greatest: '4' } })).toEqual(['start-breaks-limit']);
    expect(found({ ...minKilos, startsBy: 'first choice', startsAs: [] })).toEqual(['start-unknown']);
  });

  test('one that is used with two types', () => {
    const both = criteria('d', 'c', 'grade = cast(:min_kilos as text)');
    const mixed = ending({ ...definition, steps: [...definition.steps, both], parameters: [minKilos] });
    expect(checkTrail(mixed).problems.map((each) => each.code)).toContain('parameter-two-types');
  });

  test('choices narrowed in a circle, or by a parameter that is gone', () => {
    const circle = [{ ...minKilos, choices: looked('q') }, parameter({ id: 'q', name: 'q', choices: looked(minKilos.id) })];
    expect(found(...circle)).toEqual(['narrowing-circular', 'narrowing-circular']);
    expect(found({ ...minKilos, choices: looked('gone') })).toEqual(['narrowing-gone']);
  });
});

test('values are told by the labels of their choices, a stretch as it is, and many as their number', () => {
  const items = [
    { value: 'SM', label: 'Saltmarsh' },
    { value: 'FN', label: '' },
  ];
  const chosen = parameter({ takes: 'several', choices: { from: 'typed', items } });
  expect(valuesText(chosen, ['SM', 'FN', 'XX'])).toBe('Saltmarsh, FN, XX');
  expect(
    valuesText(
      chosen,
      Array.from({ length: 13 }, (_, index) => String(index)),
    ),
  ).toBe('13 values');
  expect(valuesText(parameter({ type: 'date', takes: 'range' }), ['last 3 months'])).toBe('last 3 months');
  expect(valuesText(parameter({ type: 'date', takes: 'range' }), ['', '2025-04-01'])).toBe('until 2025-04-01');
});
