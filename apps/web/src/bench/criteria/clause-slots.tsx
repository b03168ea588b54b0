import type { Clause, ClauseGroup, Condition, CriteriaStep, Edit, Field, Problem, Schema } from '@cendra/core';
import { fieldById, HEADS, linkReferences, operatorByWord, operatorsFor } from '@cendra/core';
import { Button } from '../../ui/button';
import { Tick } from '../../ui/tick';
import { FieldSlot } from '../field-slot';
import { ChoiceSlot, TextSlot } from '../slots';
import type { Bench } from '../use-bench';
import { OperandSlot } from './operand-slot';

export interface ClauseSlotsProps<C extends Clause = Clause> {
  readonly bench: Bench;
  readonly step: CriteriaStep;
  readonly clause: C;
  readonly schema: Schema;
  readonly problem: Problem | undefined;
  readonly fresh: boolean;
  readonly onChange: (to: Clause, ...before: Edit[]) => void;
  readonly onAddTo: (group: ClauseGroup) => void;
}

/** One clause: field, operator and value as slots, a written expression, or the head of a group. */
export function ClauseSlots(props: ClauseSlotsProps) {
  const { clause } = props;
  if (clause.kind === 'condition') return <ConditionSlots {...props} clause={clause} />;
  if (clause.kind === 'expression') return <WrittenSlot {...props} clause={clause} />;
  return <GroupHead {...props} clause={clause} />;
}

function ConditionSlots({ bench, step, clause, schema, problem, fresh, onChange }: ClauseSlotsProps<Condition>) {
  const locked = bench.withoutValues;
  const field = fieldById(schema, clause.field);
  const offered = field ? operatorsFor(field.type) : [];
  const operator = operatorByWord(clause.operator);
  const chooseField = (next: Field) => {
    const suited = operatorsFor(next.type);
    const word = suited.some((each) => each.word === clause.operator)
      ? clause.operator
      : ((suited.find((each) => each.word === 'at least') ?? suited[0])?.word ?? '');
    onChange({ ...clause, field: next.id, operator: word, operands: word === clause.operator ? clause.operands : [] });
  };
  const chooseOperator = (word: string) => {
    const keeps = operatorByWord(word)?.takes === operator?.takes;
    onChange({ ...clause, operator: word, operands: keeps ? clause.operands : [] });
  };
  const write = (text: string) =>
    onChange({
      id: clause.id,
      kind: 'expression',
      off: clause.off,
      expression: linkReferences(text, { schema, parameters: bench.trail.definition.parameters }),
    });
  return (
    <>
      <FieldSlot
        schema={schema}
        field={field}
        missing={clause.field !== '' && !field}
        disabled={locked}
        autoFocus={fresh && clause.field === ''}
        onField={chooseField}
        {...(clause.field === '' ? { onExpression: write } : {})}
      />
      {field && (
        <ChoiceSlot
          label="Operator"
          value={clause.operator}
          choices={offered.map((each) => each.word)}
          wrong={problem?.code === 'operator-unsuited'}
          disabled={locked}
          onChange={chooseOperator}
        />
      )}
      {field && operator && operator.takes !== 'none' && (
        <OperandSlot
          bench={bench}
          step={step}
          clause={clause}
          schema={schema}
          field={field}
          operator={operator}
          wrong={problem !== undefined}
          onChange={onChange}
        />
      )}
      {operator?.losesNulls && (
        <label className="flex items-center gap-1 text-ink-soft">
          <Tick checked={clause.andNulls} label="and nulls" disabled={locked} onChange={(andNulls) => onChange({ ...clause, andNulls })} />
          and nulls
        </label>
      )}
    </>
  );
}

function WrittenSlot({ bench, clause, schema, problem, onChange }: ClauseSlotsProps<Clause & { kind: 'expression' }>) {
  const write = (text: string) =>
    onChange({ ...clause, expression: linkReferences(text, { schema, parameters: bench.trail.definition.parameters }) });
  return (
    <TextSlot
      label="Expression"
      value={clause.expression.text}
      placeholder="an expression, such as kilos >= 5"
      look="font-mono"
      wrong={problem !== undefined}
      disabled={bench.withoutValues}
      onKeep={write}
    />
  );
}

function GroupHead({ bench, clause, onChange, onAddTo }: ClauseSlotsProps<ClauseGroup>) {
  return (
    <>
      <ChoiceSlot
        label="How the clauses of this group belong together"
        value={clause.head}
        choices={HEADS}
        disabled={bench.withoutValues}
        onChange={(head) => onChange({ ...clause, head })}
      />
      <span className="text-ink-soft">of these holds:</span>
      {!bench.withoutValues && (
        <Button small kind="quiet" onClick={() => onAddTo(clause)}>
          Add to the group
        </Button>
      )}
    </>
  );
}
