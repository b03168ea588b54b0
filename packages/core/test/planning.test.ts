import type { Binding, Definition, Dialect, Relation, Site } from '../src';
import {
  checkTrail,
  compile,
  countsFrom,
  decimal,
  duckdb,
  outputColumns,
  planCounts,
  planRelation,
  planRows,
  postgresql,
  relationAfter,
  text,
  whole,
} from '../src';
import { bind, criteria, definition, ending } from './support/harvests';

const dialects = (site: Site): Dialect => (site.kind === 'combine' ? duckdb : postgresql('numbered'));
const planOf = (given: Definition, binding: Binding, limit?: number) =>
  planRows(relationAfter(checkTrail(given), 'c', binding), outputColumns(checkTrail(given), 'c'), limit, dialects);

describe('a plan of one source', () => {
  test('is one statement named after the steps, reads only what it needs, and binds its values', () => {
    const plan = planOf(definition, bind(), 1000);
    expect(plan.stages).toHaveLength(1);
    const statement = compile(plan.stages[0]?.relation as Relation, postgresql('numbered'), bind());
    expect(statement.text).toContain('with "harvests" as');
    expect(statement.text).toContain('"kilos" >= $1::numeric');
    expect(statement.text).toContain('limit 1000');
    expect(statement.text).not.toContain('grade');
    expect(statement.values).toMatchObject([{ value: '5.000000' }]);
  });

  test('leaves a condition out whose parameter is blank', () => {
    const text = compile(planOf(definition, bind({ p: [] })).stages[0]?.relation as Relation, postgresql('numbered'), bind({ p: [] })).text;
    expect(text).not.toContain('where');
  });

  test('counts a chain of criteria by the number of the first condition that is not true', () => {
    const chain = ending({ ...definition, steps: [...definition.steps, criteria('d', 'c', "grade = 'A'")] });
    const counting = planCounts(checkTrail(chain), 'd', bind());
    expect(counting.segments.map((each) => each.steps).flat()).toEqual([
      { step: 't', stage: 0 },
      { step: 'c', stage: 1 },
      { step: 'd', stage: 2 },
    ]);
    const groups = [
      { stage: 0, rows: 3n, failed: [], sums: [] },
      { stage: 1, rows: 5n, failed: [], sums: [] },
      { stage: 2, rows: 2n, failed: [], sums: [] },
    ];
    expect(countsFrom(counting, [groups]).map((each) => [each.step, each.rows])).toEqual([
      ['t', 10n],
      ['c', 5n],
      ['d', 3n],
    ]);
  });
});

describe('a plan across sites', () => {
  const leaf = (source: string, session?: string): Relation => ({
    node: 'table',
    site: session === undefined ? { kind: 'source', source } : { kind: 'session', source, session },
    schema: 'x',
    table: source,
    columns: [
      { id: `${source}-id`, name: 'id', type: whole, column: 'id', sourceType: 'bigint', looseText: false },
      { id: `${source}-w`, name: 'word', type: text, column: 'word', sourceType: 'text', looseText: false },
    ],
  });
  const union = (...inputs: Relation[]): Relation => ({
    node: 'union',
    inputs,
    columns: [
      { id: 'u', name: 'id', type: whole },
      { id: 'v', name: 'word', type: text },
    ],
  });
  const places = (relation: Relation) =>
    planRelation(relation, dialects).stages.map((each) =>
      each.site.kind === 'combine'
        ? 'combine'
        : each.site.kind === 'session'
          ? `${each.site.source}/${each.site.session}`
          : each.site.source,
    );

  test('neighbours of one source stay one statement', () => expect(places(union(leaf('a'), leaf('a')))).toEqual(['a']));
  test('two sources meet in the combine engine', () => expect(places(union(leaf('a'), leaf('b')))).toEqual(['a', 'b', 'combine']));
  test('a session sees its source’s tables too, so what meets them runs there', () =>
    expect(places(union(leaf('a'), leaf('a', 's1')))).toEqual(['a/s1']));
  test('two sessions of one source are two places', () =>
    expect(places(union(leaf('a', 's1'), leaf('a', 's2')))).toEqual(['a/s1', 'a/s2', 'combine']));
  test('two sources and a session each bring only their part', () =>
    expect(places(union(leaf('a'), leaf('b'), leaf('b', 's1')))).toEqual(['a', 'b', 'b/s1', 'combine']));

  test('criteria and field choice go to the sources', () => {
    const condition = {
      op: 'compare',
      type: { kind: 'yesno' },
      operator: '>',
      left: { op: 'field', type: whole, id: 'u' },
      right: { op: 'literal', type: whole, value: { digits: 5n, scale: 0 } },
    } as const;
    const filtered: Relation = { node: 'filter', input: union(leaf('a'), leaf('b')), condition };
    const plan = planRows(filtered, [{ id: 'u', name: 'id', type: whole }], undefined, dialects);
    const texts = plan.stages.slice(0, 2).map((each) => compile(each.relation, postgresql('numbered'), { bound: new Map(), now: 0n }).text);
    for (const each of texts) {
      expect(each).toContain('where ("rows"."id" > 5)');
      expect(each).not.toContain('word');
    }
    expect(plan.stages.at(-1)?.site.kind).toBe('combine');
  });

  test('what no place can compute exactly is refused, not approximated', () => {
    const quotient = {
      op: 'arithmetic',
      type: decimal(38, 30),
      operator: '*',
      left: { op: 'field', type: whole, id: 'u' },
      right: { op: 'literal', type: decimal(31, 30), value: { digits: 3n, scale: 30 } },
    } as const;
    const condition = {
      op: 'compare',
      type: { kind: 'yesno' },
      operator: '>',
      left: quotient,
      right: { op: 'literal', type: whole, value: { digits: 5n, scale: 0 } },
    } as const;
    expect(() => planRelation({ node: 'filter', input: union(leaf('a'), leaf('b')), condition }, dialects)).toThrow(
      'products beyond 38 digits',
    );
  });
});
