import { X } from 'lucide-react';
import type { Clause, Condition, Edit, Field, Operand, Operator, Parameter, Problem, Schema } from '@cendra/core';
import { fieldById, linkReferences, operatorByWord, operatorsFor, parameterFor, PARAMETER_NAME } from '@cendra/core';
import { ProblemLine } from '../ui/notice';
import { Tick } from '../ui/tick';
import { mint } from './mint';
import { ChoiceSlot, FieldSlot, TextSlot } from './slots';
import type { Bench } from './use-bench';

interface ClauseLineProps {
  readonly bench: Bench;
  readonly number: number;
  readonly clause: Clause;
  readonly schema: Schema;
  readonly problem: Problem | undefined;
  readonly onChange: (to: Clause, ...before: Edit[]) => void;
  readonly onRemove: () => void;
}

/** One numbered clause: field, operator and value as slots, or a written expression. */
export function ClauseLine(props: ClauseLineProps) {
  const { bench, number, clause, problem, onRemove } = props;
  const locked = bench.withoutValues;
  return (
    <li className="border-b py-1.5">
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="figures w-6 text-right text-ink-soft">{number}</span>
        {clause.kind === 'condition' && <ConditionSlots {...props} clause={clause} />}
        {clause.kind === 'expression' && <WrittenSlot {...props} clause={clause} />}
        {clause.kind === 'group' && (
          <span className="text-ink-soft">
            {clause.head}: {clause.clauses.length} clauses
          </span>
        )}
        {!locked && (
          <button
            type="button"
            aria-label={`Remove clause ${number}`}
            onClick={onRemove}
            className="ml-auto flex size-6 items-center justify-center text-ink-faint hover:text-rust"
          >
            <X size={16} strokeWidth={1.75} aria-hidden />
          </button>
        )}
      </div>
      {problem && (
        <div className="pl-8" role="alert">
          <ProblemLine problem={problem} />
        </div>
      )}
    </li>
  );
}

function ConditionSlots({ bench, clause, schema, problem, onChange }: ClauseLineProps & { readonly clause: Condition }) {
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
        <OperandSlot bench={bench} clause={clause} field={field} operator={operator} wrong={problem !== undefined} onChange={onChange} />
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

interface OperandSlotProps {
  readonly bench: Bench;
  readonly clause: Condition;
  readonly field: Field;
  readonly operator: Operator;
  readonly wrong: boolean;
  readonly onChange: (to: Clause, ...before: Edit[]) => void;
}

/** What the field is compared with. A typed `:name` uses that parameter, or makes it with the field's type. */
function OperandSlot({ bench, clause, field, operator, wrong, onChange }: OperandSlotProps) {
  const { parameters } = bench.trail.definition;
  const [first] = clause.operands;
  const parameter = first?.kind === 'parameter' ? parameters.find((each) => each.id === first.id) : undefined;
  const typed = clause.operands.map((each) => wordsOf(each, parameters));
  const values = (texts: readonly string[]): readonly Operand[] => texts.map((text) => ({ kind: 'value', text }));
  const keep = (text: string) => {
    const name = /^\s*:(.*?)\s*$/.exec(text)?.[1];
    if (name !== undefined && PARAMETER_NAME.test(name)) {
      const known = parameters.find((each) => each.name === name);
      const made = known ?? parameterFor(mint, name, field, clause.operator);
      const operands: readonly Operand[] = [{ kind: 'parameter', id: made.id }];
      return known
        ? onChange({ ...clause, operands })
        : onChange({ ...clause, operands }, { kind: 'add parameter', parameter: made, index: parameters.length });
    }
    if (text.trim() === '' && field.type.kind !== 'text') return onChange({ ...clause, operands: [] });
    return onChange({
      ...clause,
      operands: values(operator.takes === 'several' ? text.split(/[,\n]/).map((each) => each.trim()) : [text]),
    });
  };
  const common = { look: parameter ? 'slot-parameter' : '', wrong, disabled: bench.withoutValues };
  if (operator.takes === 'range' && !parameter) {
    const end = (at: 0 | 1) => (text: string) =>
      text.trim().startsWith(':')
        ? keep(text)
        : onChange({ ...clause, operands: values(at === 0 ? [text, typed[1] ?? ''] : [typed[0] ?? '', text]) });
    return (
      <>
        <TextSlot {...common} label={`${field.name}, from`} value={typed[0] ?? ''} placeholder="from, or :name" onKeep={end(0)} />
        to
        <TextSlot {...common} label={`${field.name}, to`} value={typed[1] ?? ''} placeholder="to" onKeep={end(1)} />
      </>
    );
  }
  return (
    <TextSlot
      {...common}
      label={`Value for ${field.name}`}
      value={typed.join(', ')}
      placeholder={operator.takes === 'several' ? 'values, or :name' : 'value, or :name'}
      onKeep={keep}
    />
  );
}

function wordsOf(operand: Operand, parameters: readonly Parameter[]): string {
  if (operand.kind === 'value') return operand.text;
  return operand.kind === 'parameter' ? `:${parameters.find((each) => each.id === operand.id)?.name ?? 'missing'}` : operand.id;
}

function WrittenSlot({ bench, clause, schema, problem, onChange }: ClauseLineProps & { readonly clause: Clause & { kind: 'expression' } }) {
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
