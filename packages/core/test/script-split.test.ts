import fc from 'fast-check';
import { loadModule, parseSync, scanSync } from 'libpg-query';
import type { Definition, Relation, ScriptStep } from '../src';
import {
  addStepAfter,
  applyEdits,
  arrangeStep,
  bindValues,
  checkedStep,
  checkScript,
  checkTrail,
  emptyDefinition,
  invertEdits,
  lanesOf,
  parseWith,
  putTogether,
  relationAfter,
  removeStepEdit,
  scriptStep,
  splitScript,
  sqlStep,
  sqlText,
  statementsIn,
  textsAround,
  tokensOf,
} from '../src';

/** A script that becomes two in one session, and two that become one. */

const parse = parseWith({ parse: parseSync, scan: scanSync });
beforeAll(() => loadModule());

const parameters = [
  { id: 'p', name: 'season', type: 'whole number', takes: 'one', leftBlank: 'must be filled', startsAs: ['2024'], hint: '' },
] as const;
const FIELD = {
  id: 'f',
  name: 'kilos',
  column: 'kilos',
  sourceType: 'integer',
  type: { kind: 'whole' },
  role: 'measure',
  looseText: false,
};
const TEXT = `-- figures of a season
create temp table figures as select :season as season, 1 as kilos;
insert into figures values (:season, 2); -- one more
update figures set kilos = kilos + :season where kilos = 1;
select kilos from figures`;
let minted = 0;
const mint = () => `minted ${++minted}`;
const scriptOf = (text: string, given: Partial<ScriptStep> = {}): ScriptStep => ({
  ...scriptStep(mint, 'source', sqlText(text, parameters)),
  id: 'whole',
  fields: [FIELD as never],
  ...given,
});
const trailOf = (script: ScriptStep): Definition => ({
  ...emptyDefinition(''),
  steps: [script, { ...arrangeStep(mint, script.id), id: 'behind' }],
  result: 'behind',
  parameters,
});
const scriptIn = ({ steps }: Definition, id: string) => steps.find((each): each is ScriptStep => each.id === id && each.kind === 'script');
const statementsOf = (text: string) => statementsIn(tokensOf(text)).map(({ from, to }) => text.slice(from, to));

/** The definition with its script split behind a statement, and the id of the first of both. */
function split(
  definition: Definition,
  after: number,
): { readonly now: Definition; readonly first: ScriptStep; readonly second: ScriptStep } {
  const whole = scriptIn(definition, 'whole') as ScriptStep;
  const made = splitScript(definition, whole, after, mint);
  if ('because' in made) throw new Error(made.because);
  const now = applyEdits(definition, made.edits);
  expect(applyEdits(now, invertEdits(made.edits))).toEqual(definition);
  return { now, first: scriptIn(now, made.step) as ScriptStep, second: scriptIn(now, 'whole') as ScriptStep };
}

describe('splitting', () => {
  const met = { season: ['integer', 'bigint', 'numeric'] };
  const definition = trailOf(scriptOf(TEXT, { met, tempKeys: [{ table: 'figures', columns: ['season'] }] }));

  test('the first ends with the temp table it wrote last, the rest goes on in its session under the id of the whole', () => {
    const { now, first, second } = split(definition, 2);
    expect(statementsOf(first.sql.text)).toEqual([...statementsOf(TEXT).slice(0, 2), 'select * from figures']);
    expect(first.sql.text).toMatch(/^-- figures of a season\n/);
    expect(statementsOf(second.sql.text)).toEqual(statementsOf(TEXT).slice(2));
    expect(second.sql.text).toMatch(/^-- one more\n/);
    expect(second).toMatchObject({ inputs: [first.id], fields: [FIELD], sql: { refs: [{ name: 'season', parameter: 'p' }] } });
    expect([first.met, second.met]).toEqual([{ season: ['integer', 'bigint'] }, { season: ['numeric'] }]);
    expect(first.tempKeys).toEqual([{ table: 'figures', columns: ['season'] }]);
    expect(now.steps.map((each) => each.id)).toEqual([first.id, 'whole', 'behind']);
    expect(lanesOf({ definition: now }).map(({ lane, begins }) => [lane, begins])).toEqual([
      [0, ['source']],
      [0, []],
      [0, []],
    ]);
  });

  test('is refused where nothing could be shown, or nothing is behind', () => {
    const because = (text: string, after: number) => splitScript(trailOf(scriptOf(text)), scriptOf(text), after, mint);
    expect(because(TEXT, 4)).toEqual({ because: expect.stringMatching(/nothing behind/) as string });
    const dropped = 'create temp table t as select 1 as a; drop table t; select 1 as a';
    expect(because(dropped, 2)).toEqual({ because: expect.stringMatching(/no temp table/) as string });
    expect(because(dropped, 1)).toHaveProperty('step');
    const merged =
      'create temp table t (a int); create temp table u (a int); merge into t using u on t.a = u.a when matched then delete; select 1 as a';
    const made = splitScript(trailOf(scriptOf(merged)), scriptOf(merged), 3, mint);
    expect(JSON.stringify(made)).toContain('select * from t;');
  });

  test('waits for the first until that is described', () => {
    const { now, first } = split(definition, 2);
    expect(checkedStep(checkTrail(now), 'whole')?.blocked).toBe(true);
    const described = {
      ...now,
      steps: now.steps.map((each) => (each.id === first.id ? { ...first, fields: [{ ...FIELD, id: 'g' }] } : each)),
    };
    expect(checkTrail(described as Definition).problems).toEqual([]);
  });

  test('what the first ran stands before the second, each statement as one of its own script', () => {
    const { now, first } = split(definition, 2);
    const described = {
      ...now,
      steps: now.steps.map((each) => (each.id === first.id ? { ...first, fields: [{ ...FIELD, id: 'g' }] } : each)),
    };
    const binding = bindValues(parameters, { season: ['2024'] }, 0n);
    const relation = relationAfter(checkTrail(described as Definition), 'whole', binding) as Relation & { node: 'text' };
    expect(relation.site).toEqual({ kind: 'session', source: 'source', session: 'whole' });
    expect(relation.before?.map(({ number, of }) => [number, of])).toEqual([
      [1, first.id],
      [2, first.id],
      [3, first.id],
      [1, undefined],
    ]);
  });
});

describe('putting together', () => {
  test('undoes a split at whatever statement, but for blanks between', () => {
    const statement = fc.constantFrom(
      'create temp table a as select :season as n',
      'insert into a values (:season)',
      'update a set n = 1 where n = :season',
      'select n from a',
      'drop table if exists b',
    );
    let splits = 0;
    fc.assert(
      fc.property(fc.array(statement, { minLength: 2, maxLength: 8 }), fc.nat(), (statements, at) => {
        const types = statements.filter((each) => each.includes(':season')).map((_each, index) => `type ${index}`);
        const met = types.length > 0 ? { season: types } : {};
        const said = { met, letBe: [{ code: 'select-star', words: 'n', reason: 'as meant' }], tempKeys: [{ table: 'a', columns: ['n'] }] };
        const definition = trailOf(scriptOf(statements.join(';\n'), said));
        const after = 1 + (at % (statements.length - 1));
        const made = splitScript(definition, scriptIn(definition, 'whole') as ScriptStep, after, mint);
        if ('because' in made) return;
        splits++;
        const two = applyEdits(definition, made.edits);
        const edits = putTogether(two, scriptIn(two, 'whole') as ScriptStep) ?? [];
        const one = applyEdits(two, edits);
        expect(one.steps.map((each) => each.id)).toEqual(['whole', 'behind']);
        expect(statementsOf(scriptIn(one, 'whole')?.sql.text ?? '')).toEqual(statements);
        expect(scriptIn(one, 'whole')).toMatchObject({ inputs: [], ...said });
        expect(applyEdits(one, invertEdits(edits))).toEqual(two);
      }),
      { seed: 17, numRuns: 300 },
    );
    expect(splits).toBeGreaterThan(150);
  });

  test('leaves the first where its rows are taken as well, and asks for one before', () => {
    const { now, first } = split(trailOf(scriptOf(TEXT)), 2);
    const taken = applyEdits(now, [{ ...addStepAfter(now, first.id, { ...arrangeStep(mint, first.id), id: 'beside' }) }]);
    expect(taken.steps.find((each) => each.id === 'whole')?.inputs).toEqual([first.id]);
    const one = applyEdits(taken, putTogether(taken, scriptIn(taken, 'whole') as ScriptStep) ?? []);
    expect(one.steps.map((each) => each.id).toSorted()).toEqual([first.id, 'behind', 'beside', 'whole'].toSorted());
    expect(putTogether(one, scriptIn(one, 'whole') as ScriptStep)).toBeUndefined();
  });
});

describe('a script that goes on', () => {
  const codes = (definition: Definition) => checkTrail(definition).problems.map((each) => each.code);

  test('does so behind a script of the same source only', () => {
    const { now, first } = split(trailOf(scriptOf(TEXT)), 2);
    const described = { ...first, fields: [{ ...FIELD, id: 'g' } as never] };
    const withFirst = (step: Definition['steps'][number]) => ({
      ...now,
      steps: now.steps.map((each) => (each.id === first.id ? step : each)),
    });
    expect(codes(withFirst(described))).toEqual([]);
    expect(codes(withFirst({ ...described, source: 'another' }))).toEqual(['session-elsewhere']);
    const text = { ...sqlStep(mint, 'source', sqlText('select 1 as kilos', [])), id: first.id, fields: described.fields };
    expect(codes(withFirst(text))).toEqual(['session-none']);
    const long = { ...described, sql: sqlText('select 1;'.repeat(199), []) };
    expect(codes(withFirst(long))).toContain('statements-several');
  });

  test('goes on from what its first went on from, where that is removed', () => {
    const { now } = split(trailOf(scriptOf(TEXT)), 3);
    const [outer] = now.steps;
    const inner = split(
      {
        ...now,
        steps: now.steps.map((each) =>
          each.id === outer?.id
            ? { ...each, id: 'whole' }
            : each.id === 'whole'
              ? { ...each, id: 'last', inputs: ['whole'] }
              : { ...each, inputs: ['last'] },
        ),
      },
      1,
    );
    const removal = removeStepEdit(inner.now, 'whole');
    const without = removal ? applyEdits(inner.now, [removal]) : inner.now;
    expect(scriptIn(without, 'last')?.inputs).toEqual([inner.first.id]);
    expect(textsAround(inner.now, inner.second)).toEqual({
      before: [inner.first.sql.text],
      after: [scriptIn(inner.now, 'last')?.sql.text],
    });
  });

  test('knows the temp tables it finds, and what is read behind it', () => {
    const found = (text: string, before: readonly string[], after: readonly string[]) =>
      checkScript(text, parse, undefined, { before, after }).map((each) => [each.code, each.message]);
    const made = 'create temp table t as select 1 as a;\nselect * from t';
    const fills = 'insert into t values (2);\nselect a from t';
    expect(found(fills, [made], [])).toEqual([]);
    expect(found(fills, [], [])).toEqual([['script-writes-outside', expect.stringMatching(/^Statement 1/) as string]]);
    const never = 'create temp table u as select 1 as a;\nselect 1 as b';
    expect(found(never, [], []).map(([code]) => code)).toEqual(['temp-never-read']);
    expect(found(never, [], ['select a from u'])).toEqual([]);
    expect(found('select a from t', [`${made};\ndrop table t`], [])).toEqual([
      ['temp-dropped-early', 'Statement 1: t was dropped by the script before, and is read here.'],
    ]);
  });
});
