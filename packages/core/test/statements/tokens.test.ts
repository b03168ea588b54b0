import fc from 'fast-check';
import { parametersIn, statementsIn, tokensOf } from '../../src';

const names = (text: string) => parametersIn(text).map((each) => each.name);

describe('tokens', () => {
  const piece = fc.oneof(
    fc.constantFrom(
      "'",
      '"',
      '--',
      '/*',
      '*/',
      '$$',
      '$a$',
      ':',
      '::',
      ':=',
      ':name',
      '[',
      ']',
      '(',
      ')',
      ';',
      '\n',
      ' ',
      'select',
      "E'\\",
      "U&'",
      '$1',
      '?',
      '@x',
      '{x}',
      '.5',
      '1e',
      '0x',
      'é',
      '𝒳',
      '\u{feff}',
      'between :p',
      'in (:p)',
      'and',
      'or',
      'case',
      'end',
      'not',
      'where',
    ),
    fc.string({ unit: 'binary', maxLength: 4 }),
  );
  const text = fc.array(piece, { maxLength: 60 }).map((each) => each.join(''));

  test('are the text, whatever it holds', () => {
    fc.assert(
      fc.property(text, (given) => {
        const tokens = tokensOf(given);
        expect(tokens.map((each) => each.text).join('')).toBe(given);
        expect(tokens.every((each) => each.to > each.from)).toBe(true);
        for (const { condition, written } of parametersIn(given)) {
          expect(written.to).toBeGreaterThan(written.from);
          if (condition.whole) expect(condition.to).toBeGreaterThan(condition.from);
        }
        const statements = statementsIn(tokens);
        expect(statements.every((each, at) => each.from >= (statements[at - 1]?.to ?? 0))).toBe(true);
      }),
      { numRuns: 3000, seed: 16 },
    );
  });

  test('half a megabyte of anything is read at once', () => {
    for (const part of ['(', ')', "'", '/*', ':a ', 'and ', 'between :p and ', 'case ', 'end ', '[', '$$', '- ', 'x.', 'not ']) {
      const long = part.repeat(Math.floor(250_000 / part.length));
      expect(tokensOf(long).length).toBeGreaterThan(0);
      expect(parametersIn(long).length).toBeLessThanOrEqual(500);
    }
  });

  test.each([
    ['select :a, :b_2, :größe', ['a', 'b_2', 'größe']],
    ["select ':a', \":b\", 'it''s :c', E'\\':d', $$:e$$, $x$ :f $$ $x$", []],
    ['select 1 -- :a\n, /* :b /* :c */ :d */ :e', ['e']],
    ['select a::int, b := :c', ['c']],
    ['select arr[1:n], arr[:n], arr[(:m)]', ['m']],
    ['select x::text::date = :d', ['d']],
    ['select :a::date', ['a']],
    ["select U&\":a\" , n':b', x':c'", []],
    ['select a$b$ + :c', ['c']],
    ['select 1:a', ['a']],
  ])('parameters of %s', (given, found) => {
    expect(names(given)).toEqual(found);
  });

  test.each([
    ['', 0],
    [' -- nothing\n ; ;', 0],
    ['select 1;', 1],
    ["select ';' ; -- ;\n select $$;$$", 2],
    ['/* a; */ select 1 /* b */', 1],
  ])('statements of %s', (given, count) => {
    expect(statementsIn(tokensOf(given))).toHaveLength(count);
  });

  test('a statement begins and ends with what it says', () => {
    const given = '-- first\nselect 1 -- one\n; ';
    const [statement] = statementsIn(tokensOf(given));
    expect(given.slice(statement?.from, statement?.to)).toBe('select 1');
  });

  test.each(["select 'abc", 'select "abc', 'select /* a', 'select $$a', "select E'a\\'"])('%s does not end', (given) => {
    expect(tokensOf(given).at(-1)?.kind).toBe('open');
  });
});
