import fc from 'fast-check';
import { conversionOf, parametersIn } from '../../src';

describe('other notations become :name', () => {
  test.each([
    ['select * from h where season = @season', 'select * from h where season = :season'],
    ['select * from h where season=@season and grade<>@grade', 'select * from h where season=:season and grade<>:grade'],
    ['select * from h where season = ? and grade in (?)', 'select * from h where season = :season and grade in (:grade)'],
    ['select * from h where h.season = ? or h.season = ?', 'select * from h where h.season = :season or h.season = :season_2'],
    [
      'select * from h where season = $1 and year = $2 or season = $1',
      'select * from h where season = :season and year = :year or season = :season',
    ],
    ['select * from h where season = {season} and code = ${code}', 'select * from h where season = :season and code = :code'],
    [
      "select * from h where code = '@code' and name = '{name}' and x = '$1'",
      'select * from h where code = :code and name = :name and x = :x',
    ],
    [
      'select * from h where picked between ? and ? limit ?',
      'select * from h where picked between :picked_from and :picked_until limit :rows',
    ],
    ['select ? as first', 'select :value as first'],
  ])('%s', (text, converted) => {
    expect(conversionOf(text)?.text).toBe(converted);
  });

  test.each([
    ['select * from h where season = :season'],
    ["select doc ? 'key', doc @> '{\"a\":1}', a @> b, '@ home', '{a} {b}' from h"],
    ['select @ -5, arr[1] from h'],
    ['select 1 -- @season ? $1\n /* {x} */'],
  ])('%s has none', (text) => {
    expect(conversionOf(text)).toBeUndefined();
  });

  test.each([
    ['declare @season int = 2025;\nselect * from h where season = @season', [{ name: 'season', type: 'whole number', startsAs: '2025' }]],
    [
      "DECLARE @from date = '2025-04-01', @grade char(1);\nSET @grade = 'A';\nselect * from h where picked >= @from and grade = @grade",
      [
        { name: 'from', type: 'date', startsAs: '2025-04-01' },
        { name: 'grade', type: 'text', startsAs: 'A' },
      ],
    ],
    ['declare @least decimal(8,2) = -0.5 select * from h where kilos > @least', [{ name: 'least', type: 'decimal', startsAs: '-0.5' }]],
    [
      "\\set season 2025\n\\set name 'O''Hara'\nselect * from h where season = {season} and name = {name}",
      [
        { name: 'season', startsAs: '2025' },
        { name: 'name', startsAs: "O'Hara" },
      ],
    ],
    ['-- by hand\ndeclare @never int = 1;\nselect * from h where a = @used', [{ name: 'used' }]],
  ])('declarations at its head: %s', (text, parameters) => {
    const conversion = conversionOf(text);
    expect(conversion?.parameters).toEqual(parameters);
    expect(conversion?.text).toMatch(/^(-- by hand\n)?select/);
    expect(parametersIn(conversion?.text ?? '').map((each) => each.name)).toEqual(parameters.map((each) => each.name));
  });

  test('a declaration that is none is left as it is', () => {
    expect(conversionOf('declare c cursor for select 1')).toBeUndefined();
    expect(conversionOf('set @x = (select 1); select @x')?.text).toBe('set :x = (select 1); select :x');
  });

  const piece = fc.constantFrom(
    '@x',
    '?',
    '$1',
    '{y}',
    '${z}',
    "'@q'",
    "'text'",
    ' ',
    '\n',
    'select',
    '=',
    'a',
    ',',
    '(',
    ')',
    '--c\n',
    'declare @d int = 1;',
    '::int',
    ':p',
    '"n"',
    '/*k*/',
    'é',
  );
  test('changed back at its places it is the text again, whatever it was', () => {
    let converted = 0;
    fc.assert(
      fc.property(
        fc.array(piece, { maxLength: 30 }).map((each) => each.join('')),
        (text) => {
          const conversion = conversionOf(text);
          if (!conversion) return;
          converted++;
          let back = '';
          let [was, now] = [0, 0];
          for (const change of conversion.changes) {
            const between = change.from - was;
            back += conversion.text.slice(now, now + between) + change.was;
            now += between + change.now.length;
            was = change.to;
          }
          expect(back + conversion.text.slice(now)).toBe(text);
        },
      ),
      { numRuns: 2000, seed: 16 },
    );
    expect(converted).toBeGreaterThan(800);
  });
});
