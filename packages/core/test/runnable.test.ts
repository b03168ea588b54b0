import type { Binding, Definition, Parameter } from '../src';
import {
  bindDefinition,
  checkTrail,
  outputColumns,
  planRows,
  relationAfter,
  runnableText,
  runnableTexts,
  shownDialect,
  statementsIn,
  tokensOf,
} from '../src';
import { criteria, definition } from './support/harvests';

const dialects = () => shownDialect('postgresql');

function textOf(given: Definition, binding: Binding): string {
  const trail = checkTrail(given);
  expect(trail.problems).toEqual([]);
  const step = given.result ?? '';
  const plan = planRows(relationAfter(trail, step, binding), outputColumns(trail, step), undefined, dialects);
  const [only] = runnableTexts(trail, step, plan, binding, dialects, () => 'Cooperative database');
  return only?.text ?? '';
}

const parameter = (given: Partial<Parameter> & Pick<Parameter, 'id' | 'name' | 'type'>): Parameter => ({
  takes: 'one',
  leftBlank: 'condition is off',
  startsAs: [],
  hint: '',
  ...given,
});

const asking = (condition: string, ...parameters: readonly Parameter[]): Definition => {
  const [table] = definition.steps;
  if (!table) throw new Error('there is no table');
  return { ...definition, parameters, steps: [table, criteria('c', 't', condition)], result: 'c' };
};

const least = parameter({ id: 'p', name: 'least', type: 'decimal' });
const grades = parameter({ id: 'g', name: 'grades', type: 'text', takes: 'several' });
const period = parameter({ id: 'd', name: 'period', type: 'decimal', takes: 'range' });
const now = BigInt(Date.UTC(2025, 5, 1)) * 1000n;

describe('a step as a text that runs by hand', () => {
  test('has a parameter’s name where its value would stand, and tells the value at its head', () => {
    const given = asking('kilos >= :least', least);
    const text = textOf(given, bindDefinition(given, { p: ['5'] }, now));
    expect(text).toContain('"kilos" >= :least::numeric');
    expect(text).toContain('-- :least: decimal, here 5\n');
    expect(text.split('\n')[0]).toBe('-- Harvests, “kilos >= :least”: in Cooperative database');
  });

  test('keeps a list a list, so that pasting it takes several values', () => {
    const given = asking('grade in :grades', grades);
    expect(textOf(given, bindDefinition(given, { g: ['A', 'B'] }, now))).toContain('"grade" in (:grades)');
  });

  test('has a name for each end of a range, which no other parameter has', () => {
    const other = parameter({ id: 'o', name: 'period_from', type: 'text' });
    const given = asking('kilos between :period and :period and grade = :period_from', period, other);
    const text = textOf(given, bindDefinition(given, { d: ['2', '9'], o: ['A'] }, now));
    expect(text).toContain(':period_from_2::numeric');
    expect(text).toContain(':period_until::numeric');
    expect(text).toContain(':period_from::text');
  });

  test('says which condition is not in it, and which end of a range', () => {
    const given = asking('kilos >= :least and kilos between :period and :period', least, period);
    const text = textOf(given, bindDefinition(given, { d: ['2', ''] }, now));
    expect(text).toContain('-- :least: left blank, its condition is not in this text\n');
    expect(text).toContain('-- :period_until: left blank, its condition is not in this text\n');
    expect(text).not.toContain(':least::');
  });

  test('writes constants out, and keeps what they hold in quotes', () => {
    const given = asking(`grade = 'O''Hara $1 :least -- "' and kilos >= :least`, least);
    const text = textOf(given, bindDefinition(given, { p: ['5'] }, now));
    expect(text).toContain(`= 'O''Hara $1 :least -- "'::text`);
    const [statement, ...others] = statementsIn(tokensOf(text));
    expect(others).toEqual([]);
    expect(statement?.tokens.filter((each) => each.kind === 'parameter').map((each) => each.text)).toEqual([':least']);
    expect(statement?.tokens.some((each) => each.kind === 'numbered' || each.kind === 'open')).toBe(false);
  });

  test('ends a comment where it ends, whatever a value holds, and tells no private value', () => {
    const word = parameter({ id: 'w', name: 'word', type: 'text' });
    const secret = parameter({ id: 's', name: 'secret', type: 'text', isPrivate: true });
    const given = asking('grade = :word or grade = :secret', word, secret);
    const text = textOf(given, bindDefinition(given, { w: ['A\n; drop table harvests'], s: ['thistle'] }, now));
    expect(text).not.toContain('thistle');
    expect(
      tokensOf(text)
        .filter((each) => each.kind !== 'comment')
        .map((each) => each.text)
        .join(''),
    ).not.toContain('drop');
  });

  test('a place that stands for no parameter’s name has its values', () => {
    const values = [
      { type: { kind: 'text' }, value: ['a', "b'c"], parameter: { id: 'x' } },
      { type: { kind: 'text' }, value: [] },
    ] as const;
    const text = runnableText(
      { text: 'select $1 in ($2) "$1" -- $1', values: [{ type: { kind: 'text' }, value: 'q' }, ...values] },
      () => undefined,
    );
    expect(text).toBe(`select 'q' in ('a', 'b''c') "$1" -- $1`);
  });
});
