import type { Step } from '../src';
import { bindValues, checkTrail, compile, duckdb, postgresql, relationAfter } from '../src';
import { definition, ending, table } from './support/harvests';

/** A source's column may hold what fits no type. Asked about or calculated with it is null, and yet an index of the column is of use. */

const binding = bindValues([], {}, 0n);
const days = { id: 'day', column: 'day', sourceType: 'date', type: { kind: 'date' as const }, role: 'date' as const, looseText: false };
const harvests = table as Step & { kind: 'table' };
const read: Step = { ...harvests, fields: [...harvests.fields, days], taken: ['id', 'kilos', 'day'] };

function written(
  step: Pick<Step & { kind: 'criteria' }, 'kind' | 'head' | 'clauses'> | Pick<Step & { kind: 'calculate' }, 'kind' | 'fields'>,
) {
  const trail = checkTrail(ending({ ...definition, steps: [read, { id: 'c', name: '', off: false, inputs: ['t'], ...step } as Step] }));
  return compile(relationAfter(trail, 'c', binding), postgresql('numbered'), binding)
    .text.replaceAll('"harvests".', '')
    .replaceAll('"', '');
}

test.each([
  ['kilos > 5', "((kilos > 5) and kilos < 'NaN')"],
  ['kilos <= 5', '(kilos <= 5)'],
  ['kilos = 5', '(kilos = 5)'],
  ['kilos in (1, 2)', '(kilos in (1, 2))'],
  ['kilos > 5 and kilos < 9', '((kilos > 5) and (kilos < 9))'],
  ["day between date '2025-04-01' and date '2025-04-30'", '((day >= $1::date) and (day <= $2::date))'],
  ["day >= date '2025-04-01'", "((day >= $1::date) and day <= '9999-12-31')"],
  ["kilos = 5 or day < date '2025-04-01'", "((kilos = 5) or ((day < $1::date) and day >= '0001-01-01'))"],
  ['kilos <> 5', "((case when kilos < 'NaN' then kilos end) <> 5)"],
  ['kilos is null', "(kilos is null or not (kilos < 'NaN'))"],
  ['not (kilos > 5)', "(not ((case when kilos < 'NaN' then kilos end) > 5))"],
])('%s keeps no row by a value that is none', (text, where) => {
  const clause = { id: 'x', kind: 'expression' as const, off: false, expression: { text, refs: [] } };
  const sql = written({ kind: 'criteria', head: 'every one', clauses: [clause] });
  const asked = sql.slice(sql.lastIndexOf(' where ') + 7);
  expect(asked).toBe(where);
});

test('a column is handed on as it is, and calculated with as a value of its type', () => {
  const field = (name: string, text: string) => ({ id: name, name, expression: { text, refs: [] } });
  const sql = written({ kind: 'calculate', fields: [field('same', 'kilos'), field('more', 'kilos + 1')] });
  expect(sql).toMatch(/kilos as same/);
  expect(sql).toMatch(/\(case when kilos < 'NaN' then kilos end\) \+ 1/);
});

test('what has landed holds none', () => {
  const landed = { node: 'landed' as const, handle: 'h', columns: [{ id: 'kilos', name: 'kilos', type: days.type }] };
  const condition = { op: 'isNull' as const, type: { kind: 'yesno' as const }, of: { op: 'field' as const, type: days.type, id: 'kilos' } };
  expect(compile({ node: 'filter', input: landed, condition }, duckdb, binding).text).not.toContain('9999');
});
