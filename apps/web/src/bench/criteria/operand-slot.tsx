import type { Clause, Condition, CriteriaStep, Edit, Field, Operand, Operator, Schema } from '@cendra/core';
import {
  addParameter,
  familyOf,
  fieldById,
  fieldByName,
  languageOf,
  linkReferences,
  PARAMETER_NAME,
  parameterFor,
  parameterType,
  parseStretch,
  typeWord,
} from '@cendra/core';
import { mint } from '../mint';
import type { Bench } from '../use-bench';
import { CalendarButton } from '../values/calendar-button';
import { DayButton, resolved } from '../values/day-slot';
import { ListSlot } from '../values/list-slot';
import type { Reads } from '../values/readings';
import { readsFor } from '../values/readings';
import { splitValues } from '../values/split';
import type { OtherOffer } from '../values/offers';
import { ValueSlot } from '../values/value-slot';

interface OperandSlotProps {
  readonly bench: Bench;
  readonly step: CriteriaStep;
  readonly clause: Condition;
  readonly schema: Schema;
  readonly field: Field;
  readonly operator: Operator;
  readonly wrong: boolean;
  readonly onChange: (to: Clause, ...before: Edit[]) => void;
}

const asValues = (texts: readonly string[]): readonly Operand[] => texts.map((text) => ({ kind: 'value', text }));

/**
 * What the field is compared with: values typed or picked from the data, `:name` for a parameter (made with the
 * field's type where there is none), `= …` for another field or an expression.
 */
export function OperandSlot(props: OperandSlotProps) {
  const { bench, step, clause, schema, field, operator, wrong, onChange } = props;
  const { parameters, calendar } = bench.trail.definition;
  const [first, second] = clause.operands;
  const words = clause.operands.map((each) => wordsOf(each, props));
  const offered = field.type.kind === 'json' ? undefined : ({ from: 'step', step: step.id, field: field.id, clause: clause.id } as const);
  const put = (operands: readonly Operand[], ...before: Edit[]) => onChange({ ...clause, operands }, ...before);
  /** A parameter, a field or an expression; false where the text is a plain value. */
  const other = (text: string, place?: 0 | 1): boolean => {
    const name = /^\s*:(.*?)\s*$/.exec(text)?.[1];
    if (name !== undefined && PARAMETER_NAME.test(name)) {
      const known = parameters.find((each) => each.name === name);
      const made = known ?? parameterFor(mint, name, field, clause.operator);
      put([{ kind: 'parameter', id: made.id }], ...(known ? [] : [addParameter({ parameters }, made)]));
      return true;
    }
    const written = /^\s*=(.*)$/s.exec(text)?.[1]?.trim();
    if (written === undefined || written === '') return false;
    const named = fieldByName(schema, written.replace(/^"(.*)"$/, '$1'), false);
    const operand: Operand = named
      ? { kind: 'field', id: named.id }
      : { kind: 'expression', expression: linkReferences(written, { schema, parameters }) };
    put(place === undefined ? [operand] : placed(clause.operands, place, operand));
    return true;
  };
  const others = othersFor(props);
  const common = { bench, offered, others, wrong, disabled: bench.withoutValues, reads: readsIn(bench, field) };
  const isDay = familyOf(field.type) === 'day';
  const calendarFor = (what: string, value: string, onChoose: (day: string) => void) =>
    isDay && !bench.withoutValues && <CalendarButton label={`${field.name}, ${what}`} value={value} onChoose={onChoose} />;
  if (first?.kind === 'parameter')
    return (
      <ValueSlot
        {...common}
        label={`Value for ${field.name}`}
        value={words[0] ?? ''}
        placeholder="value, or :name"
        look="slot-parameter"
        onKeep={(text) =>
          other(text) || (text.trim() === '' ? put([]) : put(asValues(operator.takes === 'several' ? splitValues(text) : [text])))
        }
      />
    );
  if (operator.takes === 'several' && clause.operands.every((each) => each.kind === 'value'))
    return (
      <ListSlot
        {...common}
        label={`Values for ${field.name}`}
        noun={field.role === 'code' || field.role === 'key' ? 'codes' : 'values'}
        values={words}
        placeholder="values, or :name"
        known={offered && ((values) => ({ kind: 'known', step: step.id, field: field.id, values }))}
        onKeep={(values) => put(asValues(values))}
        onOther={other}
      />
    );
  if (operator.takes === 'range') {
    const stretch = isDay && clause.operands.length <= 2 && first?.kind === 'value' ? parseStretch(first.text) : undefined;
    const keep = (place: 0 | 1) => (text: string) => {
      if (other(text, place)) return;
      if (place === 0 && isDay && parseStretch(text)) put(asValues([text]));
      else put(placed(stretch ? [] : clause.operands, place, { kind: 'value', text }));
    };
    return (
      <>
        <ValueSlot {...common} label={`${field.name}, from`} value={words[0] ?? ''} placeholder="from, or :name" onKeep={keep(0)} />
        {calendarFor('from', words[0] ?? '', keep(0))}
        {stretch ? (
          <span className="figures text-meta text-ink-soft">{resolved(words[0] ?? '', calendar)}</span>
        ) : (
          <>
            to
            <ValueSlot {...common} label={`${field.name}, to`} value={second ? (words[1] ?? '') : ''} placeholder="to" onKeep={keep(1)} />
            {calendarFor('to', second ? (words[1] ?? '') : '', keep(1))}
          </>
        )}
        {isDay && !bench.withoutValues && (
          <DayButton
            label={field.name}
            calendar={calendar}
            value={words[0] ?? ''}
            takes="stretch"
            onKeep={(text) => put(asValues([text]))}
          />
        )}
      </>
    );
  }
  return (
    <>
      <ValueSlot
        {...common}
        label={`Value for ${field.name}`}
        value={words[0] ?? ''}
        placeholder="value, or :name"
        look={first && first.kind !== 'value' ? 'font-mono' : ''}
        onKeep={(text) => other(text) || (text.trim() === '' && field.type.kind !== 'text' ? put([]) : put(asValues([text])))}
      />
      {calendarFor('value', words[0] ?? '', (text) => put(asValues([text])))}
      {isDay && first?.kind === 'value' && resolved(first.text, calendar) !== '' && (
        <span className="figures text-meta text-ink-soft">{resolved(first.text, calendar)}</span>
      )}
      {isDay && !bench.withoutValues && (
        <DayButton label={field.name} calendar={calendar} value={words[0] ?? ''} takes="day" onKeep={(text) => put(asValues([text]))} />
      )}
    </>
  );
}

/** What is typed into a slot for the field: days as its own format, or the dataset's language, writes them. */
function readsIn({ trail: { definition } }: Bench, field: Field): Reads {
  const pattern = definition.sheet.find((each) => each.field === field.id)?.format?.pattern;
  const read = readsFor(familyOf(field.type), { language: languageOf(definition), ...(pattern === undefined ? {} : { pattern }) });
  // A parameter, another field or an expression is written here too.
  return (text) => (/^\s*[:=]/.test(text) ? { text } : read(text));
}

function placed(operands: readonly Operand[], place: 0 | 1, operand: Operand): readonly Operand[] {
  const blank: Operand = { kind: 'value', text: '' };
  const [low = blank, high = blank] = operands;
  return place === 0 ? [operand, high] : [low, operand];
}

function wordsOf(operand: Operand, { schema, bench }: OperandSlotProps): string {
  if (operand.kind === 'value') return operand.text;
  if (operand.kind === 'parameter')
    return `:${bench.trail.definition.parameters.find((each) => each.id === operand.id)?.name ?? 'missing'}`;
  return `= ${operand.kind === 'field' ? (fieldById(schema, operand.id)?.name ?? 'missing') : operand.expression.text}`;
}

/** Parameters and fields that could stand there. */
function othersFor({ bench, schema, field, operator }: OperandSlotProps): readonly OtherOffer[] {
  const family = familyOf(field.type);
  const parameters = bench.trail.definition.parameters
    .filter((each) => each.takes === operator.takes && familyOf(parameterType(each)) === family)
    .map((each) => ({ text: `:${each.name}`, says: 'parameter' }));
  if (operator.takes === 'several') return parameters;
  const fields = schema.fields
    .filter((each) => each.id !== field.id && familyOf(each.type) === family)
    .map((each) => ({ text: `= ${each.name}`, says: `field, ${typeWord(each.type)}` }));
  return [...parameters, ...fields];
}
