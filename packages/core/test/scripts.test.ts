import fc from 'fast-check';
import { loadModule, parseSync, scanSync } from 'libpg-query';
import type { Definition, ScriptStep, SqlStep, TempState } from '../src';
import {
  applyEdits,
  arrangeStep,
  catalogueOf,
  checkedOf,
  checkedStep,
  checkScript,
  checkTrail,
  emptyDefinition,
  fillOf,
  invertEdits,
  parseWith,
  scriptInstead,
  scriptParts,
  scriptStep,
  sqlStep,
  sqlText,
  tempChange,
} from '../src';

/** Scripts as far as core knows them: what their statements are made of, what is worth a look, and what changed in a temp table. */

const parse = parseWith({ parse: parseSync, scan: scanSync });
beforeAll(() => loadModule());

describe('a table made of a query', () => {
  test.each([
    ['create temp table t as select 1 as a', 'select 1 as a', false],
    ['create temp table t (a, b) on commit drop as (select 1, 2)', '(select 1, 2)', false],
    ['create temp table t as with x as (select 1 as a) select a from x with data', 'with x as (select 1 as a) select a from x', false],
    ['create temp table t as table kept with no data', 'table kept', true],
    ['create temp table "as" as values (1) -- as it is', 'values (1) -- as it is', false],
  ])('%s', (text, query, withoutRows) => {
    const fill = fillOf(text);
    expect(fill).toMatchObject({ query, withoutRows });
    expect(text.slice(fill?.from).startsWith(query)).toBe(true);
    expect(fill?.empty.endsWith('with no data')).toBe(true);
  });

  test('has no query where there is no “as”', () => expect(fillOf('create temp table t (a int)')).toBeUndefined());
});

describe('what is worth a look', () => {
  const found = (text: string) =>
    checkScript(text, parse).map(({ code, place: { position } }) => [code, text.slice(position?.from, position?.to)]);

  test.each([
    ['a temp table nothing reads', 'create temp table t as select 1 as a;\nselect 2 as b', [['temp-never-read', 'create']]],
    [
      'one that is dropped and read later',
      'create temp table t as select 1 as a;\nselect a from t;\ndrop table t;\nselect a from t',
      [['temp-dropped-early', 't']],
    ],
    [
      'a change of all rows',
      'create temp table t as select 1 as a;\nupdate t set a = 2;\nselect a from t',
      [['change-without-condition', 't']],
    ],
    [
      'what is found in selects, wherever they stand',
      'create temp table t as select h.id from coop.harvests h where h.grade = null;\nselect id from t',
      [['equals-null', '= null']],
    ],
    ['no star of a temp table', 'create temp table t as select 1 as a;\nselect x.* from t x', []],
    [
      'a star of a table that is there as well',
      'create temp table t as select 1 as a;\nselect * from t, coop.harvests',
      [
        ['select-star', '*'],
        ['join-without-condition', 'coop'],
      ],
    ],
    ['nothing in one that is in order', 'create temp table t as select 1 as a;\ninsert into t select a + 1 from t;\nselect a from t', []],
    [
      'a write into a real table',
      'create temp table t (a int);\ndelete from kept where a = 1;\nselect a from t',
      [['script-writes-outside', 'kept']],
    ],
    ['where it cannot be read', 'select 1;\nselekt 2;\nselect 3', [['text-broken', 'selekt']]],
  ])('%s', (_what, text, expected) => {
    expect(found(text)).toEqual(expected);
  });

  test('a problem names its statement', () => {
    expect(checkScript('select 1;\nselekt 2', parse)[0]?.message).toMatch(/^Statement 2: /);
    expect(checkScript('selekt 2', parse)[0]?.message).not.toMatch(/^Statement/);
  });
});

describe('a script in a trail', () => {
  const text = 'create temp table t as select :season as s, :season as again;\nselect s from t where s = :season and again between :span';
  let minted = 0;
  const mint = () => `minted ${++minted}`;
  const parameters = [
    { id: 'season', name: 'season', type: 'whole number', takes: 'one', leftBlank: 'must be filled', startsAs: ['2024'], hint: '' },
    { id: 'span', name: 'span', type: 'whole number', takes: 'range', leftBlank: 'must be filled', startsAs: ['1', '2'], hint: '' },
  ] as const;
  const script: ScriptStep = {
    ...scriptStep(mint, 'source', sqlText(text, parameters)),
    met: { season: ['bigint', 'numeric', 'integer'], span: ['integer', 'smallint'] },
    fields: [
      { id: 'f', name: 's', column: 's', sourceType: 'integer', type: { kind: 'whole' }, role: 'attribute', looseText: false } as never,
    ],
  };
  const definition: Definition = { ...emptyDefinition(''), steps: [script], result: script.id, parameters };

  test('each parameter is read as the type of what it meets at its own place, in whichever statement', () => {
    const checked = checkedOf('script', checkedStep(checkTrail(definition, catalogueOf([])), script.id));
    const binding = { bound: new Map(), blanks: new Map() };
    const parts = checked ? scriptParts(checked.step, checked.checked, binding) : [];
    const types = parts.map((each) => each.parts.flatMap(({ part }) => (typeof part === 'string' ? [] : [part.as])));
    expect(types).toEqual([
      ['bigint', 'numeric'],
      ['integer', 'integer', 'smallint'],
    ]);
    const words = parts.flatMap((each) => each.parts.filter(({ part }) => typeof part === 'string' && /select|where|as /.test(part)));
    expect(words.length).toBeGreaterThanOrEqual(4);
    for (const { part, at } of words) expect(text.startsWith(String(part), at)).toBe(true);
  });

  test('takes the place of a text of several statements, and that is undone exactly', () => {
    const sql: SqlStep = { ...sqlStep(mint, 'source', script.sql), fields: script.fields, met: script.met, key: ['f'] };
    const arranged = { ...arrangeStep(mint, sql.id), id: 'behind' };
    const before: Definition = { ...emptyDefinition(''), steps: [sql, arranged], result: 'behind', parameters };
    const { edits, step } = scriptInstead(before, sql, mint);
    const after = applyEdits(before, edits);
    expect(after.steps.map((each) => [each.id, each.kind, each.inputs])).toEqual([
      [step, 'script', []],
      ['behind', 'arrange', [step]],
    ]);
    expect(after.steps[0]).toMatchObject({ sql: sql.sql, fields: sql.fields, met: sql.met, key: ['f'] });
    expect(applyEdits(after, invertEdits(edits))).toEqual(before);
  });
});

describe('what changed in a temp table', () => {
  const cell = fc.oneof(fc.constantFrom('a', 'b', ''), fc.constant(null));
  const row = fc.tuple(fc.integer({ min: 1, max: 6 }).map(String), cell, cell);
  const rowsOf = (unique: boolean) =>
    unique ? fc.uniqueArray(row, { selector: ([id]) => id, maxLength: 6 }) : fc.array(row, { maxLength: 6 });
  const state = (rows: readonly (readonly (string | null)[])[], key: readonly string[]): TempState => ({
    columns: ['id', 'b', 'c'],
    key,
    count: String(rows.length),
    rows,
  });

  test('row by row, every row is told: new, gone, changed in the cells that are other, or the same', () => {
    let changes = 0;
    fc.assert(
      fc.property(rowsOf(true), rowsOf(true), (before, after) => {
        const change = tempChange(state(before, ['id']), state(after, ['id']));
        if (change.by !== 'key') throw new Error(`compared by ${change.by}`);
        // Computed apart, by looking each row up on the other side.
        const was = (id: string | null) => before.find((each) => each[0] === id);
        const expected = after.map((each) => {
          const old = was(each[0]);
          if (!old) return 'new';
          return old[1] === each[1] && old[2] === each[2] ? 'same' : 'changed';
        });
        expect(change.rows.map(({ is }) => is)).toEqual(expected);
        expect(change.goneRows).toEqual(before.filter((each) => !after.some((now) => now[0] === each[0])));
        expect([change.added, change.changed, change.gone]).toEqual([
          expected.filter((is) => is === 'new').length,
          expected.filter((is) => is === 'changed').length,
          change.goneRows.length,
        ]);
        // The old cells laid over the new row are the row that was.
        for (const { row: now, old } of change.rows) {
          if (!old) continue;
          changes++;
          expect(['id', 'b', 'c'].map((column, at) => (column in old ? old[column] : now[at]))).toEqual(was(now[0] ?? null));
        }
      }),
    );
    expect(changes).toBeGreaterThan(50);
  });

  test('without a key as many rows are the same as can be matched whole', () => {
    fc.assert(
      fc.property(rowsOf(false), rowsOf(false), (before, after) => {
        const change = tempChange(state(before, []), state(after, []));
        if (change.by !== 'rows') throw new Error(`compared by ${change.by}`);
        const left = before.map((each) => JSON.stringify(each));
        let added = 0;
        for (const each of after) {
          const at = left.indexOf(JSON.stringify(each));
          if (at < 0) added++;
          else left.splice(at, 1);
        }
        expect([change.added, change.gone]).toEqual([added, left.length]);
      }),
    );
  });

  test('a key that repeats, one with nulls, and a table that is too large say so', () => {
    const twice = state(
      [
        ['1', 'a', null],
        ['1', 'b', null],
      ],
      ['id'],
    );
    expect(tempChange(twice, twice)).toEqual({ by: 'rows', added: 0, gone: 0, because: 'key repeats' });
    const nulls = state([['1', null, null]], ['b']);
    expect(tempChange(nulls, nulls)).toMatchObject({ because: 'key repeats' });
    expect(tempChange(state([], []), { ...state([], []), count: '5000000000' })).toEqual({ by: 'count', before: '0', after: '5000000000' });
    expect(tempChange(undefined, state([['1', 'a', 'b']], []))).toEqual({ by: 'making', added: 1 });
  });

  test('a column that was added is told in every row, and one that is gone in none', () => {
    const before: TempState = { columns: ['id', 'gone'], key: ['id'], count: '1', rows: [['1', 'x']] };
    const after: TempState = { columns: ['id', 'fresh'], key: ['id'], count: '1', rows: [['1', '7']] };
    expect(tempChange(before, after)).toMatchObject({ changed: 1, rows: [{ is: 'changed', old: { fresh: null } }] });
  });
});
