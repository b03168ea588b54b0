import { createRequire } from 'node:module';
import type * as Core from '../packages/core/src';
import type { Field, FieldType, Schema } from '../packages/core/src';

/** Ten expressions over the big table, and what an analyst would write by hand in the source's own SQL. */
export const TEN: readonly { readonly name: string; readonly expression: string; readonly byHand: string }[] = [
  { name: 'pounds', expression: 'round(weight_kg * 2.20462, 2)', byHand: 'round(weight_kg * 2.20462, 2)' },
  { name: 'year', expression: 'extract(year from read_at)', byHand: "extract(year from read_at at time zone 'UTC')::bigint" },
  { name: 'day', expression: 'cast(read_at as date)', byHand: "(read_at at time zone 'UTC')::date" },
  {
    name: 'band',
    expression: "case when weight_kg >= 40 then 'heavy' when weight_kg >= 30 then 'middling' else 'light' end",
    byHand: "case when weight_kg >= 40 then 'heavy' when weight_kg >= 30 then 'middling' else 'light' end",
  },
  { name: 'sensor_no', expression: 'cast(substring(sensor from 2) as integer)', byHand: 'substring(sensor from 2)::bigint' },
  { name: 'label', expression: "upper(sensor) || '-' || cast(hive_id as text)", byHand: "upper(sensor) || '-' || hive_id::text" },
  { name: 'fahrenheit', expression: 'outside_c * 1.8e0 + 32', byHand: 'outside_c::text::double precision * 1.8 + 32' },
  {
    name: 'week',
    expression: 'start_of_week(cast(read_at as date))',
    byHand: "date_trunc('week', read_at at time zone 'UTC')::date",
  },
  { name: 'filled', expression: 'coalesce(weight_kg, 0) / 50', byHand: 'round(coalesce(weight_kg, 0) / 50, 6)' },
  {
    name: 'shown',
    expression: "format_date(cast(read_at as date), 'd.M.yyyy')",
    byHand: "to_char(read_at at time zone 'UTC', 'FMDD.FMMM.YYYY')",
  },
];

/** The statement a calculate step makes of the last step's rows, and what sets its values in a session. */
export function statementOf(definition: unknown): { readonly text: string; readonly settings: readonly string[] } {
  const { bindValues, checkTrail, compile, outputColumns, planRows, postgresql, readDefinition, relationAfter } = core();
  const read = readDefinition(definition);
  if ('problems' in read) throw new Error(JSON.stringify(read.problems));
  const trail = checkTrail(read.definition);
  const last = read.definition.steps.at(-1)?.id ?? '';
  const binding = bindValues([], {}, 0n);
  const dialect = postgresql('settings');
  const plan = planRows(relationAfter(trail, last, binding), outputColumns(trail, last), undefined, () => dialect);
  const [fragment] = plan.stages;
  if (!fragment) throw new Error('the plan is empty');
  const { text: sql, values } = compile(fragment.relation, dialect, binding);
  const quoted = (value: string) => `'${value.replaceAll("'", "''")}'`;
  return {
    text: sql,
    settings: values.map(({ value }, index) => `select set_config('${SETTING}${index + 1}', ${quoted(String(value))}, false)`),
  };
}

const SETTING = 'cendra.p';

/** Built by the time it is asked for, and in a form of modules that names nothing beforehand. */
const core = () => createRequire(import.meta.url)('../packages/core/dist') as typeof Core;

/** A check of 200 lines as it happens at a key, in ms: the middle of many, each with another text. */
export function typing(): number {
  const { checkExpression, decimal, linkReferences, text, tokenize, whole } = core();
  const field = (name: string, type: FieldType): Field => ({
    id: name,
    name,
    type,
    role: 'attribute',
    origin: { step: 's', column: name },
    forUseOnly: false,
  });
  const schema: Schema = { fields: [field('kilos', decimal(8, 2)), field('boxes', whole), field('floral_source', text)] };
  const lines = Array.from(
    { length: 198 },
    (_, index) => `  when kilos >= ${index} and floral_source = 'heather ${index}' then round(kilos * ${index}.25, 1) + boxes`,
  );
  const times = Array.from({ length: 120 }, (_, index) => {
    const source = `case\n${lines.join('\n')}\n  else ${'1234567'.slice(0, 1 + (index % 7))} end`;
    const from = performance.now();
    tokenize(source);
    const { refs } = linkReferences(source, { schema, parameters: [] });
    if (!checkExpression(source, { schema, parameters: [], refs }).expression) throw new Error('the expression is wrong');
    return performance.now() - from;
  });
  return times.toSorted((a, b) => a - b)[60] ?? 0;
}
