import type { Arriving, Clause, Definition, JoinPair, Parameter, ReadTable, Step, SummariseStep, UnionStep } from '@cendra/core';
import {
  applyEdits,
  arrivingAt,
  bringInEdits,
  checkedOf,
  checkedStep,
  checkTrail,
  comparedPair,
  emptyDefinition,
  linkReferences,
  NOTHING_ARRIVES,
  NOTHING_KNOWN,
  ofKind,
  partnerFields,
  tableStep,
  unionStep,
} from '@cendra/core';
import { mintId } from '../datasets';
import type { DemoDataset, DemoJoin, DemoStep, DemoUnion, FieldOf, OtherOf } from './demo-dataset';
import type { DemoLineSheet } from './demo-line-sheet';
import { sheetOf } from './demo-line-sheet';

/** The tables a demo dataset reads, as the source describes them. */
export type Described = ReadonlyMap<string, ReadTable>;

/** Steps that take nothing but the rows before them. */
type Plain = Exclude<DemoStep, DemoJoin | DemoUnion | DemoLineSheet>;

/** The tables of a demo dataset. */
export const tablesOf = ({ table, steps }: DemoDataset): readonly string[] => [
  table,
  ...steps(() => '').flatMap((each) => ('table' in each ? [each.table] : [])),
];

/** The dataset as a definition over tables of a source. */
export function definitionOf(dataset: DemoDataset, source: string, described: Described, other: OtherOf): Definition {
  const read = tableOf(source, described, dataset.table);
  const field = fieldsOf(read);
  const table: Step = { ...read, taken: dataset.taken.map(field), ...(dataset.called ? { called: dataset.called } : {}) };
  const begun: Definition = {
    ...emptyDefinition(dataset.title),
    steps: [table],
    result: table.id,
    parameters: dataset.parameters?.(field, other) ?? [],
    ...dataset.says?.(field),
  };
  const made = linked(
    dataset.steps(field).reduce((done, step) => {
      if (step.kind === 'join') return joined(done, step, source, described);
      if (step.kind === 'line sheet') return onSheet(done, step, source, described);
      return step.kind === 'union' ? stacked(done, step, source, described) : behind(done, step);
    }, begun),
  );
  return dataset.reads ? { ...made, proof: dataset.reads(handedOver(made)) } : made;
}

/** The ids of fields that are handed over, by name. */
function handedOver(definition: Definition): FieldOf {
  const { fields } = checkedStep(checkTrail(definition), definition.result ?? '')?.schema ?? { fields: [] };
  return (name) => {
    const found = fields.find((each) => each.name === name && !each.forUseOnly);
    if (!found) throw new RangeError(`the demo hands over no ${name}`);
    return found.id;
  };
}

function tableOf(source: string, described: Described, name: string) {
  const found = described.get(name);
  if (!found) throw new RangeError(`the demo has no table ${name}`);
  return tableStep(mintId, source, found);
}

function behind(given: Definition, step: Plain): Definition {
  const definition = linked(given);
  const next = made(step, definition.result ?? '', arriving(definition), definition.parameters);
  return { ...definition, steps: [...definition.steps, next], result: next.id };
}

function joined(given: Definition, join: DemoJoin, source: string, described: Described): Definition {
  const definition = linked(given);
  const table = { ...tableOf(source, described, join.table), ...(join.called ? { called: join.called } : {}) };
  const after = definition.result ?? '';
  const { edits, step: id } = bringInEdits(mintId, definition, after, { table }, NOTHING_KNOWN, join.role ?? null);
  const brought = applyEdits(definition, edits);
  const checked = checkedOf('join', checkedStep(checkTrail(brought), id));
  if (!checked) throw new RangeError('a join is made');
  const { parameters } = brought;
  const [left = NOTHING_ARRIVES, right = NOTHING_ARRIVES] = checked.arriving;
  const partners = { schema: { fields: partnerFields(checked.step, right.schema) }, parameters };
  const pairs = join.pairs.map(({ left: a, right: b, until, ...rest }): JoinPair => {
    const ends = until === undefined ? {} : { until: linkReferences(until, partners) };
    return comparedPair({
      id: mintId(),
      left: linkReferences(a, { schema: left.schema, parameters }),
      right: linkReferences(b, partners),
      ...ends,
      ...rest,
    });
  });
  const columns = new Map(table.fields.map((each) => [each.id, each.column]));
  const taken = join.taken.flatMap(
    (name) => checked.step.fields.find((each) => each.name === name || columns.get(each.from) === name)?.id ?? [],
  );
  const { name = '', keeps = checked.step.keeps, accepted = '' } = join;
  const step = { ...checked.step, name, pairs, taken, keeps, accepted };
  return { ...brought, steps: brought.steps.map((each) => (each.id === id ? step : each)) };
}

/** What the step that is handed over gives. */
const arriving = (definition: Definition): Arriving => checkedStep(checkTrail(definition), definition.result ?? '') ?? NOTHING_ARRIVES;

function stacked(given: Definition, union: DemoUnion, source: string, described: Described): Definition {
  const definition = linked(given);
  const read = tableOf(source, described, union.table);
  const table = { ...read, taken: union.taken.map(fieldsOf(read)), ...(union.called ? { called: union.called } : {}) };
  const own = arriving(definition).schema.fields;
  const find = (name: string | null) => own.find((each) => each.name === name)?.id ?? null;
  const step: UnionStep = {
    ...unionStep(mintId, [definition.result ?? '', table.id], []),
    fields: union.fields.map(([name, first, second]) => ({
      id: mintId(),
      name,
      from: [find(first), second === null ? null : fieldsOf(read)(second)],
      as: null,
    })),
    source: { id: mintId(), name: union.source[0], words: [union.source[1], union.source[2]] },
  };
  return { ...definition, steps: [...definition.steps, table, step], result: step.id };
}

function onSheet(given: Definition, sheet: DemoLineSheet, source: string, described: Described): Definition {
  const definition = linked(given);
  const read = tableOf(source, described, sheet.table);
  const table = { ...read, taken: sheet.taken.map(fieldsOf(read)), called: sheet.called };
  const after = definition.result ?? '';
  const both = { ...definition, steps: [...definition.steps, table] };
  const trail = checkTrail(both);
  const arrives = [after, table.id].map((id) => checkedStep(trail, id) ?? NOTHING_ARRIVES);
  const step = sheetOf(sheet, [after, table.id], arrives, definition.parameters);
  return { ...both, steps: [...both.steps, step], result: step.id };
}

/** The fields of a table step by their columns. */
export function fieldsOf(step: Step | undefined): FieldOf {
  const table = ofKind('table', step);
  if (!table) throw new RangeError('a demo dataset stands on a table');
  return (column) => table.fields.find((each) => each.column === column)?.id ?? '';
}

function made(step: Plain, input: string, { schema }: Arriving, parameters: readonly Parameter[]): Step {
  const base = { id: mintId(), name: '', off: false, inputs: [input] };
  const text = (written: string) => ({ text: written, refs: [] });
  const named = (name: string) => schema.fields.find((each) => each.name === name)?.id ?? '';
  switch (step.kind) {
    case 'criteria':
      return { ...base, kind: 'criteria', head: 'every one', clauses: step.clauses };
    case 'summarise': {
      const keys = step.keys.map(([name, expression]) => ({ id: mintId(), name, expression: text(expression) }));
      const values = step.values.map(([name, aggregate, expression]) => {
        return { id: mintId(), name, aggregate, expression: text(expression), among: text(''), order: text('') };
      });
      const summary: SummariseStep = { ...base, kind: 'summarise', keys, values };
      const key = keys.find((each) => each.name === step.everyDay?.key);
      const parameter = parameters.find((each) => each.name === step.everyDay?.parameter);
      if (!key || !parameter) return summary;
      return { ...summary, every: { parts: [{ from: 'range', key: key.id, parameter: parameter.id }], filledWith: '0' } };
    }
    case 'unpivot':
      return {
        ...base,
        kind: 'unpivot',
        label: { id: mintId(), name: step.label },
        values: [{ id: mintId(), name: step.value, as: null }],
        lines: step.lines.map(([word, field]) => ({ id: mintId(), word, from: [named(field)] })),
        nulls: true,
      };
    case 'arrange': {
      const count = linkReferences(step.first?.count ?? '', { schema: { fields: [] }, parameters });
      return {
        ...base,
        kind: 'arrange',
        sort: step.sort.map(([field, direction]) => ({
          id: mintId(),
          field: named(field),
          descending: direction === 'descending',
          nullsFirst: false,
        })),
        first: step.first ? { count, ties: false, per: step.first.per.map(named) } : null,
        distinct: null,
        fields: null,
      };
    }
    case 'calculate': {
      const fields = step.fields.map(([name, expression]) => ({ id: mintId(), name, expression: text(expression) }));
      return { ...base, kind: 'calculate', name: step.name ?? '', fields };
    }
  }
}

/** Names in expressions get the ids of what they mean, so that they follow when something is renamed. */
function linked(definition: Definition): Definition {
  const trail = checkTrail(definition);
  const { parameters } = definition;
  const steps = definition.steps.map((step): Step => {
    const checked = checkedStep(trail, step.id);
    const criteria = checkedOf('criteria', checked);
    if (criteria) {
      const scope = { schema: arrivingAt(trail, step.id), parameters };
      return { ...criteria.step, clauses: criteria.step.clauses.map((each) => linkedClause(each, scope)) };
    }
    const summary = checkedOf('summarise', checked);
    if (summary) {
      const scope = { schema: arrivingAt(trail, step.id), parameters };
      const link = ({ text }: { readonly text: string }) => linkReferences(text, scope);
      const keys = summary.step.keys.map((each) => ({ ...each, expression: link(each.expression) }));
      return { ...summary.step, keys, values: summary.step.values.map((each) => ({ ...each, expression: link(each.expression) })) };
    }
    const calculation = checkedOf('calculate', checked);
    if (!calculation) return step;
    return {
      ...calculation.step,
      fields: calculation.checked.map(({ field, scope }) => ({
        ...field,
        expression: linkReferences(field.expression.text, { ...scope, parameters }),
      })),
    };
  });
  return { ...definition, steps };
}

function linkedClause(clause: Clause, scope: Parameters<typeof linkReferences>[1]): Clause {
  if (clause.kind === 'group') return { ...clause, clauses: clause.clauses.map((each) => linkedClause(each, scope)) };
  return clause.kind === 'expression' ? { ...clause, expression: linkReferences(clause.expression.text, scope) } : clause;
}
