import type { Expression } from '../expressions';
import { all, commonType, compare, widen } from '../expressions';
import type { Field } from '../fields';
import { fieldById, yesno } from '../fields';
import type { Choices, Narrowing, Parameter } from '../parameters';
import { fieldsOfChoices, parameterType } from '../parameters';
import { relationAfter } from '../planning';
import { refuse } from '../problem';
import type { Relation } from '../sql';
import type { Questioning, WantedRows } from '../steps';
import { kindOf, readsSource } from '../steps';
import { checkedStep, resultStep } from '../trail';
import type { QuestionContext } from './question';
import type { FoundValues, KnownValues, ValueOrigin } from './values';
import { knownValues, listValues } from './values';

type Looked = Exclude<Choices, { readonly from: 'typed' }>;

/** The choices of a parameter that contain a text, narrowed by the other parameters' values. */
export function* choices(context: QuestionContext, parameterId: string, search: string): Questioning<FoundValues> {
  const { parameter, offered } = lookedUp(context, parameterId);
  const { origin, bound } = originOf(context, parameter, offered);
  return yield* bounded(listValues(origin, search, offered.sorted), bound);
}

/** Which of some values are among the choices as they are narrowed now. */
export function* knownChoices(context: QuestionContext, parameterId: string, values: readonly string[]): Questioning<KnownValues> {
  const { parameter, offered } = lookedUp(context, parameterId);
  const { origin, bound } = originOf(context, parameter, offered);
  return yield* bounded(knownValues(origin, values), bound);
}

function lookedUp({ trail }: QuestionContext, id: string): { readonly parameter: Parameter; readonly offered: Looked } {
  const parameter = trail.definition.parameters.find((each) => each.id === id);
  const offered = parameter?.choices;
  if (!parameter || !offered || offered.from === 'typed')
    return refuse('choices-none', 'This parameter has no choices that are looked up.', { parameter: id });
  return { parameter, offered };
}

/** Rows another dataset's choices come from may need that dataset's own values. */
function* bounded<A>(question: Questioning<A>, bound: NonNullable<WantedRows['bound']>): Questioning<A> {
  let step = question.next();
  while (!step.done) {
    const wanted = step.value;
    step = question.next(yield { ...wanted, bound: new Map([...bound, ...(wanted.bound ?? [])]) });
  }
  return step.value;
}

/** The rows of a table choices come from, its columns told by their names. */
function tableOf(context: QuestionContext, parameter: Parameter, { table, field, label, narrowedBy }: Looked & { readonly from: 'table' }) {
  const fields = fieldsOfChoices(table, context.trail.definition.calendar.zone);
  const columns = table.columns.map((each, at) => ({ ...each, ...(fields[at] as Field), column: each.name }));
  const value = fields.find((each) => each.id === field);
  if (!value) return refuse('choices-gone', 'The column the choices come from is not known any more.', { parameter: parameter.id });
  const site = { kind: 'source', source: table.source } as const;
  const rows: Relation = { node: 'table', site, schema: table.schema, table: table.table, columns };
  const relation = narrowedRows(context, rows, fields, narrowedBy);
  const shown = label === null ? undefined : fields.find((each) => each.id === label);
  return { origin: shown ? { relation, value, label: shown } : { relation, value }, bound: context.binding.bound };
}

function originOf(context: QuestionContext, parameter: Parameter, offered: Looked) {
  if (offered.from === 'table') return tableOf(context, parameter, offered);
  const { trail, binding } = offered.from === 'dataset' ? otherOf(context, parameter, offered.dataset) : context;
  const step = offered.from === 'dataset' ? resultStep(trail) : trail.steps.find((each) => introduces(each.step, offered.field));
  const schema = step && (checkedStep(trail, step.step.id)?.schema ?? { fields: [] });
  const value = schema && fieldById(schema, offered.field);
  const gone = 'The field the choices come from is not there any more.';
  if (!step || !value) return refuse('choices-gone', gone, { parameter: parameter.id }, 'another field for the choices');
  const label = offered.label === null ? undefined : fieldById(schema, offered.label);
  const relation = relationAfter(trail, step.step.id, binding);
  const narrowed = narrowedRows(context, relation, schema.fields, offered.narrowedBy);
  const origin: ValueOrigin = label ? { relation: narrowed, value, label } : { relation: narrowed, value };
  return { origin, bound: binding.bound };
}

/** Choices come from a source as it is: criteria further down may ask with the very parameter they are offered for. */
function introduces(step: QuestionContext['trail']['steps'][number]['step'], field: string): boolean {
  return readsSource(step) && kindOf(step).mints(step).includes(field);
}

function otherOf({ others }: QuestionContext, parameter: Parameter, dataset: string) {
  const found = others.get(dataset);
  return (
    found ??
    refuse(
      'choices-gone',
      'The dataset the choices come from is not there any more.',
      { parameter: parameter.id },
      'another dataset for the choices',
    )
  );
}

function narrowedRows(context: QuestionContext, relation: Relation, fields: readonly Field[], narrowedBy: readonly Narrowing[]): Relation {
  const conditions = narrowedBy.flatMap((each) => narrowing(context, fields, each) ?? []);
  const [only] = conditions;
  return only ? { node: 'filter', input: relation, condition: conditions.length > 1 ? all(...conditions) : only } : relation;
}

/** The field has the other parameter's value; undefined where that is blank, or is not there any more. */
function narrowing({ trail, binding }: QuestionContext, fields: readonly Field[], by: Narrowing): Expression | undefined {
  const parameter = trail.definition.parameters.find((each) => each.id === by.parameter);
  const field = fields.find((each) => each.id === by.field);
  const bound = binding.bound.get(by.parameter);
  if (!parameter || !field || !bound) return undefined;
  const type = parameterType(parameter);
  const common = commonType(field.type, type);
  if (!common) return undefined;
  const of = widen({ op: 'field', type: field.type, id: field.id }, common);
  const value = (part?: 'from' | 'until') => widen({ op: 'parameter', type, id: parameter.id, ...(part ? { part } : {}) }, common);
  if (bound.takes === 'one') return compare('=', of, value());
  if (bound.takes === 'several') return { op: 'inList', type: yesno, listType: type, of, id: parameter.id };
  const ends = [
    ...(bound.from === null ? [] : [compare('>=', of, value('from'))]),
    ...(bound.until === null ? [] : [compare('<=', of, value('until'))]),
  ];
  return ends.length > 1 ? all(...ends) : ends[0];
}
