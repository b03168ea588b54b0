import type { Field, FieldType, Format, Role, SheetEntry } from '../src';
import {
  aggregatesOf,
  aggregateType,
  COMMON_CALENDAR,
  date,
  datetime,
  decimal,
  float,
  formatProblem,
  isSafeName,
  safeName,
  sheetFields,
  sheetProblems,
  spreadsheetFormat,
  text,
  time,
  uniqueNames,
  whole,
  writerOf,
  yesno,
} from '../src';

const field = (id: string, type: FieldType, role: Role = 'attribute', name = id): Field => ({
  id,
  name,
  type,
  role,
  origin: { step: 't', column: name },
  forUseOnly: false,
});
const kilos = field('kilos', decimal(8, 2), 'measure');
const season = field('season', whole, 'code');
const pickedOn = field('picked_on', date, 'date');
const sheetOf = (fields: readonly Field[], sheet: readonly SheetEntry[] = [], order: readonly string[] = []) =>
  sheetFields({ fields }, sheet, order);
const codes = (fields: readonly Field[], sheet: readonly SheetEntry[] = []) =>
  sheetProblems(sheetOf(fields, sheet)).map((each) => each.code);

describe('a format', () => {
  const write = (type: FieldType, pattern: string | undefined, wire: string, more: Partial<Format> = {}, role: Role = 'measure') =>
    writerOf({ type, role }, pattern === undefined ? undefined : { pattern, ...more })(wire);

  test.each([
    [decimal(8, 2), '#,##0.0', '17204.55', '17\u202f204.6'],
    [decimal(8, 2), '#,##0.00 ¤', '-3.5', '−3.50 EUR'],
    [decimal(8, 4), '0.0 %', '0.1234', '12.3 %'],
    [whole, '0000', '17', '0017'],
    [float, '0.00', '2.005', '2.01'],
    [date, 'd MMMM yyyy', '2025-04-03', '3 April 2025'],
    [datetime, 'd MMM HH:mm', '2025-04-03 07:05:00', '3 Apr 07:05'],
    [time, 'h:mm a', '14:05:00', '2:05 PM'],
  ] as const)('of %j by %s writes %s as %s', (type, pattern, wire, shown) => {
    expect(write(type, pattern, wire, { currency: 'EUR' })).toBe(shown);
  });

  test('tells quarters by the years of the dataset, as an expression does', () => {
    const own = (firstMonthOfYear: number) => {
      const sheet = [{ field: 'at', format: { pattern: 'QQQ yyyy' } }];
      const [at] = sheetFields({ fields: [field('at', date, 'date')] }, sheet, [], { ...COMMON_CALENDAR, firstMonthOfYear });
      return at && writerOf({ type: at.type, role: at.role }, at.format)('2024-04-01');
    };
    expect([own(1), own(4), own(10)]).toEqual(['Q2 2024', 'Q1 2024', 'Q3 2024']);
  });

  test('that is not given leaves years and codes without gaps, and numbers with them', () => {
    expect(write(whole, undefined, '2025', {}, 'code')).toBe('2025');
    expect(write(whole, undefined, '2025')).toBe('2\u202f025');
    expect(write(decimal(8, 2), undefined, '1000.5')).toBe('1\u202f000.50');
    expect(write(yesno, undefined, 'true')).toBe('yes');
    expect(write(text, undefined, 'Fennick')).toBe('Fennick');
  });

  test('keeps all 38 digits, and a value it cannot write as it came', () => {
    expect(write(decimal(38, 2), '#,##0.00', '123456789012345678901234567890123456.78')).toBe(
      '123\u202f456\u202f789\u202f012\u202f345\u202f678\u202f901\u202f234\u202f567\u202f890\u202f123\u202f456.78',
    );
    expect(write(float, '0.0', 'NaN')).toBe('NaN');
  });

  test.each([
    [text, 'd MMMM'],
    [yesno, '0'],
    [whole, 'd MMMM yyyy'],
    [date, '#,##0'],
    [date, 'HH:mm'],
    [whole, '#,##0.0.0'],
    [whole, "'kg"],
  ] as const)('of %j by %s is told not to fit, and is then not used', (type, pattern) => {
    expect(formatProblem(type, { pattern })?.code).toBe('format-unsuited');
    expect(write(type, pattern, 'as it came')).toBe('as it came');
  });

  test.each([
    [decimal(8, 2), '#,##0.00', '#,##0.00'],
    [decimal(8, 2), '#,##0.00 ¤', '#,##0.00" EUR"'],
    [decimal(8, 2), '0.0 %', '0.0" "%'],
    [whole, '0000', '0000'],
    [decimal(8, 2), "0.0;'minus' 0.0", '0.0;"minus "0.0'],
    [date, 'd MMM yyyy', 'd" "mmm" "yyyy'],
    [datetime, 'yyyy-MM-dd HH:mm', 'yyyy-mm-dd" "hh:mm'],
    [date, 'QQQ yyyy', undefined],
    [text, '0', undefined],
  ] as const)('of %j by %s is %s in a spreadsheet', (type, pattern, expected) => {
    expect(spreadsheetFormat({ type, role: 'measure' }, { pattern, currency: 'EUR' })).toBe(expected);
  });
});

describe('a name', () => {
  test('is made safe from any script, without accents, reserved words and repetitions', () => {
    expect(safeName('Kilos (net)')).toBe('Kilos_net');
    expect(safeName('Žatva')).toBe('Zatva');
    expect(safeName('2025 yield')).toBe('f_2025_yield');
    expect(safeName('order')).toBe('order_value');
    expect(safeName('重量')).toBe('field');
    expect(safeName('kilos', ['KILOS', 'kilos_2'])).toBe('kilos_3');
    expect(safeName('x'.repeat(80))).toHaveLength(63);
    expect(isSafeName(safeName('x'.repeat(80)))).toBe(true);
  });

  test('that is unsafe, reserved or there twice is a finding; for use only none is', () => {
    expect(codes([field('a', text, 'attribute', 'Kilos net')])).toEqual(['name-unsafe']);
    expect(codes([field('a', text, 'attribute', 'order')])).toEqual(['name-reserved']);
    expect(codes([kilos, season], [{ field: 'season', name: 'Kilos' }])).toEqual(['name-twice', 'name-twice']);
    expect(codes([kilos, season], [{ field: 'season', name: 'Kilos', forUseOnly: true }])).toEqual([]);
  });

  test('is made different where files need it', () => {
    expect(uniqueNames(['kilos', 'Kilos', 'kilos_2', 'kilos'])).toEqual(['kilos', 'Kilos_2', 'kilos_2_2', 'kilos_3']);
  });
});

describe('the sheet', () => {
  test('orders the fields, and what it does not name comes behind', () => {
    expect(sheetOf([kilos, season, pickedOn], [], ['picked_on', 'gone']).map((each) => each.id)).toEqual(['picked_on', 'kilos', 'season']);
  });

  test('says more than the field, and leaves what it does not say', () => {
    const [said] = sheetOf([kilos], [{ field: 'kilos', name: 'net', label: 'Net weight', role: 'attribute' }]);
    expect(said).toMatchObject({
      name: 'net',
      label: 'Net weight',
      role: 'attribute',
      aggregates: ['least', 'greatest', 'count', 'distinct count'],
    });
    expect(sheetOf([pickedOn])[0]).toMatchObject({ name: 'picked_on', label: 'Picked on' });
  });

  test('allows sums and averages of measures only', () => {
    expect(aggregatesOf(decimal(8, 2), 'measure', 'over everything')).toContain('sum');
    expect(aggregatesOf(decimal(8, 2), 'measure', 'over nothing')).not.toContain('sum');
    for (const role of ['key', 'code', 'attribute', 'date'] as const) {
      expect(aggregatesOf(whole, role, 'over everything')).not.toContain('sum');
      expect(aggregatesOf(whole, role, 'over everything')).not.toContain('average');
    }
  });

  test('gives sums all 38 digits, and averages their scale', () => {
    expect(aggregateType('sum', decimal(8, 2))).toEqual(decimal(38, 2));
    expect(aggregateType('sum', whole)).toEqual(decimal(38, 0));
    expect(aggregateType('average', whole)).toMatchObject({ kind: 'decimal', scale: 6 });
    expect(aggregateType('average', float)).toEqual(float);
    expect(aggregateType('distinct count', text)).toEqual(whole);
  });

  test('asks for a date where a measure takes its last value, and for a format that fits', () => {
    expect(codes([kilos, pickedOn], [{ field: 'kilos', addsUp: 'over everything but dates, then last' }])).toEqual(['last-by-missing']);
    expect(codes([kilos, pickedOn], [{ field: 'kilos', addsUp: 'over everything but dates, then last', lastBy: 'picked_on' }])).toEqual([]);
    expect(codes([kilos], [{ field: 'kilos', format: { pattern: 'd MMM' } }])).toEqual(['format-unsuited']);
  });
});
