import type { Against, Aggregate, Mark, Parameter, SheetField } from '@cendra/core';
import {
  againstWords,
  aggregateType,
  equal,
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
import { fieldWords } from './field-words';

interface MarkLineProps {
  readonly mark: Mark;
  readonly index: number;
  readonly marks: readonly Mark[];
  readonly fields: readonly SheetField[];
  readonly parameters: readonly Parameter[];
  readonly locked: boolean;
  readonly onChange: (to: Mark) => void;
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

interface AgainstSlotProps extends Pick<MarkLineProps, 'mark' | 'index' | 'fields' | 'locked' | 'onChange'> {
  readonly field: SheetField;
}

/** What a mark compares with: a value, the average, or another field of its kind. */
function AgainstSlot({ mark, index, field, fields, locked, onChange }: AgainstSlotProps) {
  const words = fieldWords(fields);
  const { of } = mark;
  const others = fields.filter(
    (each) =>
      each.id !== field.id &&
      familyOf(typeOn(mark, each)) === familyOf(typeOn(mark, field)) &&
      (of === undefined || each.aggregates.includes(of)),
  );
  const choices: readonly Against[] = [
    ...(isNumber(typeOn(mark, field)) ? [{ of: 'average' } as const] : []),
    ...others.map((each) => ({ of: 'field', field: each.id }) as const),
  ];
  const says = (against: Against) => againstWords({ of, against }, words.of);
  if (choices.length === 0 && !mark.against) return null;
  return (
    <ChoiceSlot
      label={`What mark ${index + 1} compares with`}
      value={mark.against ? says(mark.against) : A_VALUE}
      choices={[A_VALUE, ...choices.map(says)]}
      wrong={mark.against !== undefined && !choices.some((each) => equal(each, mark.against ?? null))}
      disabled={locked}
      onChange={(said) => {
        const { against: _against, ...plain } = mark;
        const against = choices.find((each) => says(each) === said);
        onChange(against ? { ...plain, against, operands: [] } : plain);
      }}
    />
  );
}

/** One mark as a sentence: of which field, where what holds, and how it looks. */
export function MarkLine({ mark, index, marks, fields, parameters, locked, onChange, onAway, onAlso }: MarkLineProps) {
  const field = fields.find((each) => each.id === mark.field);
  const operator = operatorByWord(mark.operator);
  const [problem] = field ? markCondition(mark, fields, parameters).problems : [];
  const words = fieldWords(fields);
  const chooseField = (chosen: string) => {
    const next = words.field(chosen);
    if (!next) return;
    const { of, ...rest } = mark;
    const told = of !== undefined && next.aggregates.includes(of) ? { of } : {};
    onChange(suited({ ...rest, ...told, field: next.id }, next));
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
      <ChoiceSlot
        label={`Field of mark ${index + 1}`}
        value={words.of(mark.field)}
        choices={fields.map((each) => words.of(each.id))}
        wrong={!field}
        disabled={locked}
        onChange={chooseField}
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
      {operator?.takes === 'one' && field && (
        <AgainstSlot mark={mark} index={index} field={field} fields={fields} locked={locked} onChange={onChange} />
      )}
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
