import type { Dialect, Expression, FieldType, Relation, TableColumn } from '../src';
import {
  bindValues,
  columnsOf,
  compare,
  compile,
  duckdb,
  forTransfer,
  nodesOfRelation,
  planRelation,
  postgresql,
  prune,
  whole,
} from '../src';

/** Statements of relations with several inputs: each table is told apart, written once, and gives what the union says it gives. */

const decimal: FieldType = { kind: 'decimal', precision: 8, scale: 2 };
const numbered = postgresql('numbered');
const field = (id: string, type: FieldType = whole): Expression => ({ op: 'field', type, id });

function table(
  name: string,
  types: Readonly<Record<string, [FieldType, string]>> = { id: [whole, 'bigint'], n: [whole, 'bigint'] },
  source = 's',
) {
  const columns = Object.entries(types).map(([column, [type, sourceType]]): TableColumn => ({
    id: `${name}-${column}`,
    name: column,
    type,
    column,
    sourceType,
    looseText: false,
  }));
  return { node: 'table', site: { kind: 'source', source }, schema: 'x', table: name, columns } as const satisfies Relation;
}

const join = (left: Relation, right: Relation, on: Expression, keeps: 'pairs' | 'left' | 'both' = 'left'): Relation => ({
  node: 'join',
  left,
  right,
  on,
  keeps,
});
const atLeast = (input: Relation, id: string, least: bigint): Relation => ({
  node: 'filter',
  input,
  condition: compare('>=', field(id), { op: 'literal', type: whole, value: { digits: least, scale: 0 } }),
});
const statement = (relation: Relation, dialect: Dialect = numbered) => compile(relation, dialect, bindValues([], {}, 0n)).text;
const timesIn = (text: string, part: string) => text.split(part).length - 1;
const dialects = (site: { readonly kind: string }) => (site.kind === 'combine' ? duckdb : numbered);

test('columns of one name are told apart by the table they stand in', () => {
  const text = statement(join(table('a'), table('b'), compare('=', field('a-id'), field('b-id'))));
  const [, left, right] = /^select ("[^"]+")\."id".* left join .* as ("[^"]+") on /.exec(text) ?? [];
  expect(left).not.toBe(right);
  expect(text).toMatch(new RegExp(`on \\(${left}\\."id" = ${right}\\."id[^"]*"\\)$`));
});

test('a relation used in several places is written once', () => {
  const base = atLeast(table('a'), 'a-n', 2n);
  const minted: Relation = {
    node: 'calculate',
    input: base,
    kept: [],
    fields: [{ id: 'again', name: 'again', type: whole, expression: field('a-id') }],
  };
  const text = statement(join(base, minted, compare('=', field('a-id'), field('again'))));
  expect(timesIn(text, '"x"."a"')).toBe(1);
  expect(timesIn(text, '>=')).toBe(1);
});

test('a union gives its own names and types, whatever its inputs call theirs', () => {
  const columns = [{ id: 'amount', name: 'amount', type: decimal }];
  const of = (name: string, type: FieldType, sourceType: string): Relation => table(name, { [`${name}_own`]: [type, sourceType] });
  const union: Relation = { node: 'union', inputs: [of('a', whole, 'bigint'), of('b', decimal, 'numeric(8,2)')], columns };
  for (const dialect of [numbered, duckdb]) {
    const text = statement(dialect === duckdb ? landed(union) : union, dialect);
    const [first, second] = text.split(/\s+union all\s+/);
    expect(first).toMatch(/(cast|round)\(.*as "amount"/);
    expect(second).toContain('as "amount"');
    expect(compile(dialect === duckdb ? landed(union) : union, dialect, bindValues([], {}, 0n)).columns).toEqual(columns);
  }
});

/** The same over rows that were brought to the combine engine. */
function landed(union: Relation & { node: 'union' }): Relation {
  const inputs = union.inputs.map((each, at): Relation => ({ node: 'landed', handle: `landed ${at}`, columns: columnsOf(each) }));
  return { ...union, inputs };
}

test('a relation of which no column is wanted still gives its rows', () => {
  const pruned = prune(atLeast(table('a'), 'a-n', 2n), new Set());
  expect(statement({ node: 'choose', input: pruned, columns: [] })).toMatch(/^select 1 as "[^"]+" from /);
});

test('rows that meet by a range are joined fully where a place can do it', () => {
  const ranges = join(table('a'), table('b'), compare('<', field('a-id'), field('b-id')), 'both');
  const equals = join(table('a'), table('b'), compare('=', field('a-id'), field('b-id')), 'both');
  expect(planRelation(equals, dialects).stages.map(({ site }) => site.kind)).toEqual(['source']);
  expect(planRelation(ranges, dialects).stages.map(({ site }) => site.kind)).toEqual(['source', 'source', 'combine']);
});

test('what no place can compute is refused by name before anything runs', () => {
  const ranges = join(table('a'), table('b'), compare('<', field('a-id'), field('b-id')), 'both');
  const nowhere = (): Dialect => ({
    ...numbered,
    capabilities: new Set([...numbered.capabilities].filter((each) => each !== 'full joins on ranges')),
  });
  expect(() => planRelation(ranges, nowhere)).toThrow(/full joins on ranges/);
});

describe('rows that are carried away', () => {
  const readings = table('r', { id: [whole, 'bigint'], outside: [{ kind: 'float' }, 'real'], inside: [{ kind: 'float' }, 'real'] });
  const warm: Relation = {
    node: 'filter',
    input: readings,
    condition: { op: 'isNull', type: { kind: 'yesno' }, of: field('r-inside', { kind: 'float' }) },
  };

  test('leave as they are in the source, which sends their text, where nothing asks about them, and as the value that was meant where something does', () => {
    expect(timesIn(statement(warm), '::text::double precision')).toBe(2);
    const text = statement(forTransfer(warm));
    expect(text).toContain('"r"."outside", "r"."inside"::text::double precision');
    expect(timesIn(text, '::text')).toBe(1);
  });

  test('are read as values where they are stacked or meet themselves', () => {
    const stacked: Relation = { node: 'union', inputs: [readings, readings], columns: readings.columns };
    expect(forTransfer(stacked)).toBe(stacked);
    const twice = join(readings, { node: 'choose', input: readings, columns: [] }, compare('=', field('r-id'), field('r-id')));
    expect(nodesOfRelation(forTransfer(twice))).toContain(readings);
  });
});

test.each([
  ['PostgreSQL', numbered],
  ['DuckDB', duckdb],
] as const)('in %s a column is written as often as it is used: to put it under a name first costs more than it', (_name, dialect) => {
  const days = table('d', { at: [{ kind: 'date' }, 'date'], grade: [{ kind: 'text' }, 'text'] });
  const made = (id: string, expression: Expression) => ({ id, name: id, type: expression.type, expression });
  const fields = [
    made('year', { op: 'call', type: whole, name: 'extract', unit: 'year', of: [field('d-at', { kind: 'date' })] }),
    made('loud', { op: 'call', type: { kind: 'text' }, name: 'upper', of: [field('d-grade', { kind: 'text' })] }),
  ];
  const input: Relation = dialect === duckdb ? { node: 'landed', handle: 'd', columns: columnsOf(days) } : days;
  expect(statement({ node: 'calculate', input, kept: [], fields }, dialect)).not.toMatch(/v\.a0/);
});
