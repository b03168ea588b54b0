import type { CalculatedField, CalculateStep, Definition, Edit, Step } from '../src';
import {
  addItem,
  applyEdit,
  applyEdits,
  bindValues,
  checkExpression,
  checkTrail,
  columnsOf,
  compile,
  COMMON_CALENDAR,
  editSentence,
  evaluateTrail,
  invertEdit,
  linkReferences,
  nodesOf,
  planCounts,
  planRows,
  postgresql,
  outputColumns,
  readDefinition,
  relationAfter,
  removeItem,
  setItem,
  typeWord,
} from '../src';
import { calculate, field, withFields } from './support/calculated';
import { definition, ending, table } from './support/harvests';
import { schema } from './support/wire-rows';

const problemsOf = (of: Definition) => checkTrail(of).problems.filter((each) => each.code !== 'parameter-unused');
const binding = bindValues([], {}, 0n);

describe('calculated fields', () => {
  test('come behind those that arrive, typed, and may use earlier ones', () => {
    const trail = checkTrail(withFields(field('double', 'kilos * 2'), field('told', "cast(double as text) || ' kg'")));
    expect(trail.steps[1]?.problems).toEqual([]);
    expect(trail.steps[1]?.schema.fields.map((each) => [each.name, typeWord(each.type), each.forUseOnly])).toEqual([
      ['id', 'whole number', false],
      ['kilos', 'decimal(8,2)', false],
      ['grade', 'text', true],
      ['double', 'decimal(27,2)', false],
      ['told', 'text', false],
    ]);
    expect(trail.steps[1]?.title).toBe('with double and told');
  });

  test.each([
    ['itself', [field('a', 'a + 1')], 'field-circular', 'a is calculated from itself.'],
    ['in a circle', [field('a', 'b + 1'), field('b', 'a + 1')], 'field-circular', 'a is calculated from b, and b from a.'],
    ['further down', [field('a', 'b + 1'), field('b', 'kilos')], 'field-later', 'b is calculated further down.'],
    [
      'broken',
      [field('a', 'kilo + 1'), field('b', 'a + 1')],
      'field-broken',
      'a has an error of its own, so nothing can be calculated with it.',
    ],
    ['without a name', [field('', 'kilos')], 'name-missing', 'This calculated field has no name yet.'],
    ['of a name that is there', [field('kilos', '1')], 'name-taken', 'There is a field kilos already.'],
    ['of a pattern that is none', [field('a', "format_number(kilos, '0,0.0.0')")], 'pattern-none', undefined],
    ['of a date pattern that is none', [field('a', "format_date(date '2025-04-30', 'bbb')")], 'pattern-none', undefined],
    ['of a type that does not suit', [field('a', 'upper(kilos)')], 'type-mixed', undefined],
    ['of a function that is none', [field('a', 'uper(grade)')], 'function-unknown', 'There is no function uper.'],
    ['over rows without saying which', [field('a', 'rank()')], 'over-missing', undefined],
    ['over rows inside one another', [field('a', 'sum(sum(kilos) over ()) over ()')], 'other-rows-nested', undefined],
    [
      'of a frame that begins at the end',
      [field('a', 'sum(kilos) over (order by id rows between unbounded following and current row)')],
      'expression-unexpected',
      undefined,
    ],
    ['ranked without an order', [field('a', 'row_number() over ()')], 'order-missing', undefined],
  ])('%s are told', (_, fields, code, message) => {
    const found = problemsOf(withFields(...fields)).find((each) => each.code === code);
    expect(found).toMatchObject({ code, place: { step: 'k' }, ...(message === undefined ? {} : { message }) });
    expect(checkTrail(withFields(...fields)).steps[1]?.blocked).toBe(true);
  });

  test('with nothing written yet are not there, are hinted at, and stop nothing', () => {
    const trail = checkTrail(withFields(field('', ''), field('b', 'kilos * 2')));
    expect(trail.steps[1]).toMatchObject({ blocked: false });
    expect(trail.problems.filter(({ place }) => place.step === 'k').map(({ code, severity }) => [code, severity])).toEqual([
      ['name-missing', 'hint'],
      ['expression-missing', 'hint'],
    ]);
    expect(trail.steps[1]?.schema.fields.some(({ name }) => name === 'b')).toBe(true);
    expect(problemsOf(withFields(field('a', ''), field('b', 'a + 1'))).find(({ code }) => code === 'field-unwritten')).toMatchObject({
      message: 'Nothing is written for a yet, so nothing can be calculated with it.',
    });
  });

  test('of names in any script and of reserved words are written in double quotes where they must be', () => {
    const odd = withFields(
      field('вес', 'kilos'),
      field('end', 'вес + 1'),
      field('重量', '"end" * 2'),
      field('über all', '重量'),
      field('last', '"über all"'),
    );
    expect(problemsOf(odd).filter((each) => each.severity !== 'hint')).toEqual([]);
  });

  test('say when a field they use was removed upstream', () => {
    const linked = linkReferences('kilos * 2', { schema: checkTrail(definition).steps[0]?.schema ?? { fields: [] }, parameters: [] });
    const step = calculate([{ id: 'd', name: 'double', expression: linked }]);
    const gone: Step = {
      ...table,
      fields: table.kind === 'table' ? table.fields.filter((each) => each.column !== 'kilos') : [],
      taken: ['id'],
    } as Step;
    expect(problemsOf(ending({ ...definition, steps: [gone, step] }))).toMatchObject([
      { code: 'field-gone', place: { field: 'd', position: { from: 0, to: 5 } } },
    ]);
  });

  test('are hinted at where equal rows leave the order open', () => {
    const ties = (text: string) => problemsOf(withFields(field('a', text))).map((each) => [each.code, each.severity]);
    expect(ties('lag(kilos) over (order by kilos)')).toEqual([['order-ties', 'hint']]);
    expect(ties('lag(kilos) over (order by kilos, id)')).toEqual([]);
    expect(ties('sum(kilos) over (order by kilos)')).toEqual([]);
  });

  test('are not looked at by criteria over other rows', () => {
    const step: Step = {
      id: 'c',
      kind: 'criteria',
      name: '',
      off: false,
      inputs: ['t'],
      head: 'every one',
      clauses: [{ id: 'x', kind: 'expression', off: false, expression: { text: 'rank() over (order by kilos) = 1', refs: [] } }],
    };
    expect(problemsOf(ending({ ...definition, steps: [table, step] }))[0]).toMatchObject({
      code: 'other-rows-misplaced',
      place: { clause: 'x' },
    });
  });

  test('that pile up functions are refused before they become too large, and long ones are not', () => {
    const nested = Array.from({ length: 12 }).reduce(
      (inner: string) => `format_date(parse_date(${inner}, 'd MMM yyyy'), 'EEE d MMM yyyy')`,
      'grade',
    );
    expect(problemsOf(withFields(field('a', nested)))[0]?.code).toBe('expression-too-large');
    const long = Array.from({ length: 190 }, (_, index) => `case when kilos > ${index} then ${index} else 0 end`).join('\n + ');
    expect(problemsOf(withFields(field('a', long)))).toEqual([]);
  });

  test('follow the calendar of the dataset', () => {
    const of = withFields(field('week', "start_of_week(date '2025-01-01')"), field('year', "start_of_year(date '2025-01-01')"));
    const rows = (calendar: Definition['calendar']) =>
      [...(evaluateTrail({ ...of, calendar }, 'k', binding, () => [new Map()]).rows[0]?.values() ?? [])].slice(-2);
    const day = (iso: string) => Math.round(Date.parse(iso) / 86_400_000);
    expect(rows(COMMON_CALENDAR)).toEqual([day('2024-12-30'), day('2025-01-01')]);
    expect(rows({ ...COMMON_CALENDAR, firstDayOfWeek: 7, firstMonthOfYear: 4 })).toEqual([day('2024-12-29'), day('2024-04-01')]);
  });

  test('with blank parameters take them as null', () => {
    const of: Definition = withFields(
      field('a', 'coalesce(kilos + :min_kilos, -1)'),
      field('b', 'case when :min_kilos is null then 1 else 2 end'),
    );
    const blank = bindValues(of.parameters, { p: [] }, 0n);
    const trail = checkTrail(of);
    const plan = planRows(relationAfter(trail, 'k', blank), outputColumns(trail, 'k'), undefined, () => postgresql('numbered'));
    const { values } = compile(plan.stages[0]?.relation ?? fail(), postgresql('numbered'), blank);
    expect(values).toEqual([]);
    const [row] = evaluateTrail(of, 'k', blank, () => [new Map([['kilos', { digits: 500n, scale: 2 }]])]).rows;
    expect(row?.get('f-b')).toEqual({ digits: 1n, scale: 0 });
  });
});

const fail = (): never => {
  throw new Error('the example is wrong');
};

describe('what a definition may come to', () => {
  const nested = (times: number, wrap: (inner: string) => string, inner: string): string =>
    times === 0 ? inner : nested(times - 1, wrap, wrap(inner));

  test('a part that a function writes in several places is looked at once, however deep these stand in one another', () => {
    const { expression } = checkExpression(
      nested(12, (inner) => `nullif(${inner}, 3)`, 'd2'),
      { schema, parameters: [] },
    );
    expect(expression && nodesOf(expression).length).toBeLessThan(200);
  });

  test('expressions are counted together, and the one that is too much says so', () => {
    const heavy = Array.from({ length: 190 }, (_each, at) =>
      field(
        `n${at}`,
        nested(12, (inner) => `nullif(${inner}, ${at})`, 'kilos'),
      ),
    );
    const [first] = problemsOf(withFields(...heavy));
    const at = heavy.findIndex(({ id }) => id === first?.place.field);
    expect([first?.code, at > 50 && at < 189]).toEqual(['definition-too-large', true]);
    expect(problemsOf(withFields(...heavy.slice(0, at)))).toEqual([]);
  });

  test('texts that cannot be read count as well', () => {
    const long = Array.from({ length: 60 }, (_each, at) => field(`n${at}`, `(${'kilos +'.repeat(300)}`));
    expect(problemsOf(withFields(...long)).map((each) => each.code)).toContain('definition-too-large');
  });

  test('operations stand on one another up to a depth, also through several fields', () => {
    const chain = (length: number) =>
      Array.from({ length }, (_each, at) =>
        field(
          `n${at}`,
          nested(20, (inner) => `abs(${inner})`, at === 0 ? 'kilos' : `n${at - 1}`),
        ),
      );
    expect(problemsOf(withFields(...chain(20)))).toEqual([]);
    const [first] = problemsOf(withFields(...chain(21)));
    expect([first?.code, first?.place.field]).toEqual(['expression-too-deep', 'f-n20']);
  });
});

describe('edits of calculated fields', () => {
  const before = withFields(field('double', 'kilos * 2'), field('triple', 'kilos * 3'));
  const step = before.steps[1] as CalculateStep;
  const [double] = step.fields as readonly [CalculatedField, CalculatedField];
  test.each<[Edit, string]>([
    [addItem(step, 'fields', field('half', 'kilos / 2'), 1), 'added the calculated field half'],
    [removeItem(step, 'fields', double), 'removed the calculated field double'],
    [setItem(step, 'fields', double, field('double', 'kilos  +\n kilos')), 'calculated double as kilos + kilos'],
    [{ kind: 'rename field', step: 'k', field: double.id, from: 'double', to: 'twice' }, 'renamed double to twice'],
    [
      { kind: 'set calendar', from: COMMON_CALENDAR, to: { ...COMMON_CALENDAR, firstDayOfWeek: 7, firstMonthOfYear: 4 } },
      'made weeks begin on Sunday and years begin in April',
    ],
  ])('%j can be told and taken back', (edit, told) => {
    expect(editSentence(edit, before)).toBe(told);
    const after = applyEdits(before, [edit]);
    expect(after).not.toEqual(before);
    expect(applyEdit(after, invertEdit(edit))).toEqual(before);
  });

  test('renaming rewrites every expression that names the field, in this step and later ones', () => {
    const used = linkReferences('double + double', { schema: checkTrail(before).steps[1]?.schema ?? { fields: [] }, parameters: [] });
    const later = ending({ ...before, steps: [...before.steps, calculate([{ id: 'q', name: 'quadruple', expression: used }], 'k', 'l')] });
    const after = applyEdits(later, [{ kind: 'rename field', step: 'k', field: double.id, from: 'double', to: 'two times' }]);
    expect((after.steps[2] as CalculateStep).fields[0]?.expression.text).toBe('"two times" + "two times"');
    expect(checkTrail(after).problems.filter((each) => each.severity === 'error')).toEqual([]);
  });

  test('are refused where somebody else changed the same field', () => {
    const other = field('double', 'kilos * 4');
    expect(() => applyEdits(before, [setItem(step, 'fields', other, field('double', '1'))])).toThrow('Somebody changed the same place');
  });

  test('a definition from before calendars is read with the common one', () => {
    const { calendar: _, result: _r, ...old } = definition;
    const read = readDefinition({ ...old, version: 1 });
    expect('definition' in read && read.definition.calendar).toEqual(COMMON_CALENDAR);
  });

  test('two fields of one id are refused', () => {
    expect(readDefinition(withFields(field('a', '1', 'same'), field('b', '2', 'same')))).toMatchObject({
      problems: [{ code: 'definition-broken' }],
    });
  });
});

describe('statements of calculated fields', () => {
  const relation = (...fields: readonly CalculatedField[]) => relationAfter(checkTrail(withFields(...fields)), 'k', binding);
  const text = (...fields: readonly CalculatedField[]) => compile(relation(...fields), postgresql('numbered'), binding).text;

  test('hand on what arrived and the fields, and nothing that was made on the way', () => {
    const made = relation(field('d', "parse_date(grade, 'd.M.yyyy')"), field('s', 'kilos / sum(kilos) over ()'));
    expect(columnsOf(made).map((each) => each.name)).toEqual(['id', 'kilos', 'grade', 'd', 's']);
  });

  test('compute a part that is used several times once', () => {
    const statement = text(field('months', "months_between(parse_date(grade, 'dd.MM.yyyy'), date '2025-09-30')"));
    expect(statement.match(/regexp_match/g)).toHaveLength(3);
  });

  test('grow with the fields, also where each uses the one before twice', () => {
    const chain = Array.from({ length: 20 }, (_, index) =>
      field(`c${index}`, index === 0 ? 'kilos' : `coalesce(c${index - 1}, c${index - 1} + 1)`),
    );
    expect(text(...chain).length).toBeLessThan(20_000);
    expect(text(...chain).match(/offset 0/g)?.length).toBeGreaterThanOrEqual(19);
  });

  test('begin a new count where values over other rows stand behind criteria', () => {
    const keep: Step = {
      id: 'c',
      kind: 'criteria',
      name: '',
      off: false,
      inputs: ['t'],
      head: 'every one',
      clauses: [{ id: 'x', kind: 'expression', off: false, expression: { text: 'kilos > 5', refs: [] } }],
    };
    const counts = (last: CalculateStep) =>
      planCounts(checkTrail(ending({ ...definition, steps: [table, keep, last] })), 'k', binding).segments.map((each) =>
        each.steps.map((step) => step.step),
      );
    expect(counts(calculate([field('a', 'sum(kilos) over ()')], 'c'))).toEqual([['t', 'c'], ['k']]);
    expect(counts(calculate([field('a', 'kilos + 1')], 'c'))).toEqual([['t', 'c', 'k']]);
  });
});
