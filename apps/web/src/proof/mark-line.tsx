import type { Aggregate, Edit, Mark, SheetField } from '@cendra/core';
import {
  againstWords,
  aggregateType,
  familyOf,
  isNumber,
  keptOperand,
  letterOf,
  MARK_LOOKS,
  MOST_MARKS,
  markCondition,
  operatorByWord,
  operatorsFor,
  parameterOfMark,
  typedOperand,
} from '@cendra/core';
import { ChoiceSlot, TextSlot } from '../bench/slots';
import { ProblemLine } from '../ui/notice';
import { mint } from '../bench/mint';
import { SeveralFields } from '../fields/several-fields';
import { Away } from './away';
import type { FieldChoices } from './field-or-expression';
import { FieldOrExpression } from './field-or-expression';

interface MarkLineProps extends FieldChoices {
  readonly mark: Mark;
  readonly index: number;
  readonly marks: readonly Mark[];
  /** With the edits by which a field comes to be handed over. */
  readonly onChange: (to: Mark, before?: readonly Edit[]) => void;
  readonly onAway: () => void;
  /** The same mark on other fields. */
  readonly onAlso: (marks: readonly Mark[]) => void;
}

const VALUES = 'values';

const typeOn = ({ of }: Mark, { type }: SheetField) => (of === undefined ? type : aggregateType(of, type));

/** A mark whose condition can be asked of what it stands on. */
function suited(mark: Mark, field: SheetField): Mark {
  const operators = operatorsFor(typeOn(mark, field));
  const word = operators.some((each) => each.word === mark.operator) ? mark.operator : (operators[0]?.word ?? '');
  if (word === mark.operator) return mark;
  const { against: _against, ...plain } = mark;
  return { ...plain, operator: word, operands: [] };
}

/** Whether a mark of one field can stand on another as it is. */
const marksAlike = (mark: Mark, field: SheetField, own: SheetField): boolean =>
  familyOf(typeOn(mark, field)) === familyOf(typeOn(mark, own)) &&
  (mark.of === undefined || field.aggregates.includes(mark.of)) &&
  !(mark.against?.of === 'field' && mark.against.field === field.id);

const A_VALUE = 'a value';

interface AgainstSlotProps extends FieldChoices, Pick<MarkLineProps, 'mark' | 'index' | 'onChange'> {
  readonly field: SheetField;
}

/** What a mark compares with: a value, the average, or another field of its kind. */
function AgainstSlot({ mark, index, field, onChange, handed, more, ...choices }: AgainstSlotProps) {
  const { of, against, ...plain } = mark;
  const kept = of === undefined ? plain : { ...plain, of };
  const compares = (each: SheetField) =>
    each.id !== field.id &&
    familyOf(typeOn(mark, each)) === familyOf(typeOn(mark, field)) &&
    (of === undefined || each.aggregates.includes(of));
  const average = isNumber(typeOn(mark, field)) ? againstWords({ of, against: { of: 'average' } }, choices.words.of) : undefined;
  const other = against?.of === 'field' ? against.field : undefined;
  return (
    <FieldOrExpression
      {...choices}
      label={`What mark ${index + 1} compares with`}
      value={other}
      empty={against?.of === 'average' ? (average ?? 'an average') : A_VALUE}
      others={[
        { says: A_VALUE, choose: () => onChange(kept) },
        ...(average === undefined
          ? []
          : [{ says: average, choose: () => onChange({ ...kept, against: { of: 'average' }, operands: [] }) }]),
      ]}
      offered={[...handed, ...more].filter(compares).map((each) => each.id)}
      says={(id) => againstWords({ of, against: { of: 'field', field: id } }, choices.words.of)}
      wrong={
        other !== undefined ? !handed.some((each) => each.id === other && compares(each)) : against !== undefined && average === undefined
      }
      onField={(next, before) => onChange({ ...kept, against: { of: 'field', field: next.id }, operands: [] }, before)}
    />
  );
}

/** One mark as a sentence: of which field, where what holds, and how it looks. */
export function MarkLine({ mark, index, marks, onChange, onAway, onAlso, ...choices }: MarkLineProps) {
  const { bench, handed: fields, more, words, locked } = choices;
  const { parameters } = bench.trail.definition;
  const field = fields.find((each) => each.id === mark.field);
  const operator = operatorByWord(mark.operator);
  const [problem] = field ? markCondition(mark, fields, parameters).problems : [];
  const chooseField = (next: SheetField, before: readonly Edit[]) => {
    const { of, ...rest } = mark;
    const told = of !== undefined && next.aggregates.includes(of) ? { of } : {};
    onChange(suited({ ...rest, ...told, field: next.id }, next), before);
  };
  const chooseOf = (of: Aggregate | undefined) => {
    if (!field) return;
    const { of: _old, ...rest } = mark;
    onChange(suited(of === undefined ? rest : { ...rest, of }, field));
  };
  const chooseOperator = (word: string) => {
    const same = operatorByWord(word)?.takes === operator?.takes;
    const { against, ...rest } = mark;
    onChange({ ...rest, ...(same && against ? { against } : {}), operator: word, operands: same ? mark.operands : [] });
  };
  const operand = (at: number, text: string) =>
    onChange({ ...mark, operands: at === 0 ? [text, ...mark.operands.slice(1)] : [mark.operands[0] ?? '', text] });
  return (
    <div className="flex flex-wrap items-center gap-1.5 py-0.5">
      Mark
      <ChoiceSlot
        label={`What mark ${index + 1} stands on`}
        value={mark.of === undefined ? VALUES : `the ${mark.of}`}
        choices={[VALUES, ...(field?.aggregates ?? []).map((each) => `the ${each}`)]}
        disabled={locked}
        onChange={(said) => chooseOf(field?.aggregates.find((each) => `the ${each}` === said))}
      />
      of
      <FieldOrExpression
        bench={bench}
        words={words}
        locked={locked}
        label={`Field of mark ${index + 1}`}
        value={mark.field}
        offered={[...fields, ...more].map((each) => each.id)}
        wrong={!field}
        onField={chooseField}
      />
      where
      <ChoiceSlot
        label={`Condition of mark ${index + 1}`}
        value={mark.operator}
        choices={field ? operatorsFor(typeOn(mark, field)).map((each) => each.word) : []}
        disabled={locked}
        onChange={chooseOperator}
      />
      {operator?.takes === 'several' && (
        <TextSlot
          label={`Values of mark ${index + 1}`}
          value={mark.operands.map((each) => typedOperand(each, parameters)).join(', ')}
          placeholder="values, with commas, or :parameter"
          wrong={problem !== undefined}
          disabled={locked}
          onKeep={(text) =>
            onChange({
              ...mark,
              operands: text
                .split(',')
                .map((each) => keptOperand(each.trim(), parameters))
                .filter((each) => each !== ''),
            })
          }
        />
      )}
      {operator?.takes === 'one' && field && <AgainstSlot {...choices} mark={mark} index={index} field={field} onChange={onChange} />}
      {(operator?.takes === 'one' || operator?.takes === 'range') && !mark.against && (
        <TextSlot
          label={`Value of mark ${index + 1}`}
          value={typedOperand(mark.operands[0] ?? '', parameters)}
          placeholder="value, or :parameter"
          wrong={problem !== undefined}
          disabled={locked}
          onKeep={(text) => operand(0, keptOperand(text.trim(), parameters))}
        />
      )}
      {operator?.takes === 'range' && parameterOfMark(mark) === undefined && (
        <>
          until
          <TextSlot
            label={`Second value of mark ${index + 1}`}
            value={mark.operands[1] ?? ''}
            placeholder="value"
            wrong={problem !== undefined}
            disabled={locked}
            onKeep={(text) => operand(1, text.trim())}
          />
        </>
      )}
      :
      <ChoiceSlot
        label={`Look of mark ${index + 1}`}
        value={mark.look}
        choices={MARK_LOOKS}
        disabled={locked}
        onChange={(look) => onChange({ ...mark, look })}
      />
      {letterOf(mark, marks) !== '' && <span>with {letterOf(mark, marks)}</span>}
      {!locked && field && (
        <SeveralFields
          says="Mark others so …"
          does={(count) => `Mark ${count} ${count === 1 ? 'field' : 'fields'} so`}
          fields={fields.filter((each) => each.id !== field.id && marksAlike(mark, each, field))}
          most={MOST_MARKS - marks.length}
          onKeep={(others) => onAlso(others.map((each) => ({ ...mark, id: mint(), field: each.id })))}
        />
      )}
      <Away label={`Take mark ${index + 1} away`} hidden={locked} onClick={onAway} />
      {problem && <ProblemLine problem={problem} />}
    </div>
  );
}
