import type { Clause, Condition, CriteriaStep, Schema } from '@cendra/core';
import { fieldById, readValue, typedAs } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { grouped } from '../../ui/format';
import type { Bench } from '../use-bench';
import { MOST_CHIPS } from '../values/list-slot';
import { NearestLine } from '../values/nearest-line';

/** Operators that ask for a value itself, so that one which is nowhere is worth a word. */
const EXACT = new Set(['is', 'is not', 'equals', 'differs from', 'one of', 'none of']);
const REST = 300;

interface KnownNoticeProps {
  readonly bench: Bench;
  readonly step: CriteriaStep;
  readonly clause: Condition;
  readonly schema: Schema;
  readonly onChange: (to: Clause) => void;
}

/** Under a clause whose value is nowhere in the field: which existing ones are nearest, one click to take. */
export function KnownNotice({ bench, step, clause, schema, onChange }: KnownNoticeProps) {
  const field = fieldById(schema, clause.field);
  const values = clause.operands.flatMap((each) => (each.kind === 'value' && each.text !== '' ? [each.text] : []));
  const asks =
    field !== undefined &&
    !bench.withoutValues &&
    EXACT.has(clause.operator) &&
    values.length > 0 &&
    values.every((each) => readValue(typedAs(field.type, each), each).ok);
  const { answer } = useAnswer(bench, asks ? { kind: 'known', step: step.id, field: field.id, values } : undefined, REST);
  if (!answer || answer.missing.length === 0 || !field) return null;
  if (values.length > MOST_CHIPS)
    return (
      <p className="pl-9 text-amber" role="status">
        {grouped(answer.missing.length)} of them are nowhere in {field.name}; “as text” lists them.
      </p>
    );
  const write = (from: string, to: string) =>
    onChange({
      ...clause,
      operands: clause.operands.map((each) => (each.kind === 'value' && each.text === from ? { ...each, text: to } : each)),
    });
  return (
    <div className="space-y-0.5 pl-9">
      {answer.missing.slice(0, 5).map(({ value, nearest }) => (
        <NearestLine
          key={value}
          value={value}
          where={`nowhere in ${field.name}`}
          nearest={nearest}
          onTake={(taken) => write(value, taken)}
        />
      ))}
    </div>
  );
}
