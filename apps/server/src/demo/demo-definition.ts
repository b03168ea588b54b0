import type { Clause, Definition, JoinPair, ReadTable, Step } from '@cendra/core';
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
} from '@cendra/core';
import { mintId } from '../datasets';
import type { DemoDataset, DemoJoin, DemoStep, FieldOf, OtherOf } from './demo-dataset';

/** The tables a demo dataset reads, as the source describes them. */
export type Described = ReadonlyMap<string, ReadTable>;

/** The tables of a demo dataset. */
export const tablesOf = ({ table, steps }: DemoDataset): readonly string[] => [
  table,
  ...steps(() => '').flatMap((each) => (each.kind === 'join' ? [each.table] : [])),
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
  return linked(
    dataset.steps(field).reduce((done, step) => (step.kind === 'join' ? joined(done, step, source, described) : behind(done, step)), begun),
  );
}

function tableOf(source: string, described: Described, name: string) {
  const found = described.get(name);
  if (!found) throw new RangeError(`the demo has no table ${name}`);
  return tableStep(mintId, source, found);
}

function behind(definition: Definition, step: Exclude<DemoStep, DemoJoin>): Definition {
  const next = made(step, definition.result ?? '');
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
  const step = { ...checked.step, name: join.name ?? '', pairs, taken, ...(join.keeps ? { keeps: join.keeps } : {}) };
  return { ...brought, steps: brought.steps.map((each) => (each.id === id ? step : each)) };
}

/** The fields of a table step by their columns. */
export function fieldsOf(step: Step | undefined): FieldOf {
  const table = ofKind('table', step);
  if (!table) throw new RangeError('a demo dataset stands on a table');
  return (column) => table.fields.find((each) => each.column === column)?.id ?? '';
}

function made(step: Exclude<DemoStep, DemoJoin>, input: string): Step {
  const base = { id: mintId(), off: false, inputs: [input] };
  if (step.kind === 'criteria') return { ...base, kind: 'criteria', name: '', head: 'every one', clauses: step.clauses };
  const text = (written: string) => ({ text: written, refs: [] });
  if (step.kind === 'summarise') {
    const keys = step.keys.map(([name, expression]) => ({ id: mintId(), name, expression: text(expression) }));
    const values = step.values.map(([name, aggregate, expression]) => {
      return { id: mintId(), name, aggregate, expression: text(expression), among: text(''), order: text('') };
    });
    return { ...base, kind: 'summarise', name: '', keys, values };
  }
  const fields = step.fields.map(([name, text]) => ({ id: mintId(), name, expression: { text, refs: [] } }));
  return { ...base, kind: 'calculate', name: step.name ?? '', fields };
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
