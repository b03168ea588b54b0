import { Plus, X } from 'lucide-react';
import type { CheckedOf, FieldType, UnpivotLine, UnpivotValue } from '@cendra/core';
import {
  addItem,
  checkedOf,
  fieldById,
  firstArriving,
  freeName,
  NOTHING_ARRIVES,
  removeItem,
  setItem,
  typeWord,
  unpivotLine,
} from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import { Conversions } from '../conversions';
import { StatementShown } from '../runnable/statement-shown';
import { FailedRows } from '../failed-rows';
import { mint } from '../mint';
import { FieldSlot } from '../field-slot';
import { ChoiceSlot, TextSlot } from '../slots';
import type { StepEditorProps } from '../step-kind';
import { unpivotNote } from '../trail-notes';

/** “Floral source and grade become rows: what it is in grouping, its value in group.” */
export default function UnpivotEditor(props: StepEditorProps) {
  const unpivot = checkedOf('unpivot', props.checked);
  return unpivot && <Unpivot {...props} unpivot={unpivot} />;
}

type UnpivotProps = StepEditorProps & { readonly unpivot: CheckedOf<'unpivot'> };

const KEPT = 'are kept';
const LEFT_OUT = 'are left out';

function Unpivot({ bench, checked, unpivot, counts, onFailed }: UnpivotProps) {
  const { edit, withoutValues } = bench;
  const { step, problems } = unpivot;
  const { schema } = firstArriving(unpivot);
  const general = problems.filter(({ place }) => place.field === undefined);
  const named = [step.label, ...step.values].map((each) => each.name);
  const addValue = () => {
    const taken = new Set([...schema.fields.map((each) => each.name), ...named]);
    const value: UnpivotValue = { id: mint(), name: freeName('value', taken), as: null };
    edit(addItem(step, 'values', value, step.values.length));
  };
  return (
    <div className="px-3 py-2">
      <p className="flex flex-wrap items-center gap-x-1.5 gap-y-1">
        Fields become rows: what it is in
        <NameSlot bench={bench} unpivot={unpivot} item={step.label} label="Field that says what a value is" />, its value in
        {step.values.map((value, at) => (
          <NameSlot
            key={value.id}
            bench={bench}
            unpivot={unpivot}
            item={value}
            label={step.values.length > 1 ? `Value field ${at + 1}` : 'Field of the values'}
          />
        ))}
        ; rows without a value
        <ChoiceSlot
          label="Rows without a value"
          value={step.nulls ? KEPT : LEFT_OUT}
          choices={[KEPT, LEFT_OUT]}
          disabled={withoutValues}
          onChange={(to) => edit({ kind: 'set step', step: step.id, property: 'nulls', from: step.nulls, to: to === KEPT })}
        />
      </p>
      <div className="mt-2 overflow-x-auto">
        <table className="w-full border-t" aria-label="Fields that become rows">
          <thead className="text-left text-meta text-ink-soft">
            <tr className="border-b">
              <th className="py-0.5 font-normal">{step.label.name || 'what it is'}</th>
              {step.values.map((value) => (
                <ValueHead key={value.id} bench={bench} unpivot={unpivot} value={value} />
              ))}
              <th />
            </tr>
          </thead>
          <tbody>
            {step.lines.map((line) => (
              <Line key={line.id} bench={bench} unpivot={unpivot} line={line} />
            ))}
            {!withoutValues && (
              <tr className="border-b">
                <td className="py-0.5 text-ink-soft">one more row for</td>
                <td colSpan={step.values.length + 1}>
                  <FieldSlot
                    key={step.lines.length}
                    label="Field that becomes a row"
                    schema={schema}
                    field={undefined}
                    missing={false}
                    disabled={false}
                    autoFocus={step.lines.length > 0 && step.lines.length < 2}
                    onField={(field) => edit(addItem(step, 'lines', unpivotLine(mint, step, field), step.lines.length))}
                  />
                </td>
              </tr>
            )}
          </tbody>
        </table>
      </div>
      {!withoutValues && (
        <div className="mt-2">
          <Button small icon={Plus} onClick={addValue}>
            Add a value field
          </Button>
          <span className="ml-2 text-meta text-ink-soft">for fields that go together, such as kilos and price of each year</span>
        </div>
      )}
      {step.lines.length > 1 && <p className="mt-2 text-amber first-letter:uppercase">{unpivotNote(unpivot)}.</p>}
      {general.map((problem, index) => (
        <div key={index} role="alert" className="mt-2">
          <ProblemLine problem={problem} />
        </div>
      ))}
      <FailedRows count={counts[step.id]} what="could not be converted" onShow={onFailed} />
      {!withoutValues && <StatementShown bench={bench} checked={checked} />}
    </div>
  );
}

function NameSlot({
  bench,
  unpivot,
  item,
  label,
}: Pick<UnpivotProps, 'bench' | 'unpivot'> & { readonly item: { readonly id: string; readonly name: string }; readonly label: string }) {
  const wrong = unpivot.problems.some(({ code, place }) => place.field === item.id && code.startsWith('name'));
  return (
    <TextSlot
      label={label}
      value={item.name}
      placeholder="name"
      wrong={wrong}
      disabled={bench.withoutValues}
      onKeep={(to) => bench.edit({ kind: 'rename field', step: unpivot.step.id, field: item.id, from: item.name, to: to.trim() })}
    />
  );
}

/** A value field with its type, and what is wrong with it. */
function ValueHead({ bench, unpivot, value }: Pick<UnpivotProps, 'bench' | 'unpivot'> & { readonly value: UnpivotValue }) {
  const { edit, withoutValues } = bench;
  const { step, checked, problems } = unpivot;
  const found = problems.filter((each) => each.place.field === value.id);
  const type = checked.values.find((each) => each.value.id === value.id)?.type;
  const change = (as: FieldType | null) => edit(setItem(step, 'values', value, { ...value, as }));
  return (
    <th className="font-normal">
      {value.name || 'value'} {type && <span className="text-ink-faint">{typeWord(type)}</span>}
      {value.as && !withoutValues && (
        <Button small kind="quiet" onClick={() => change(null)}>
          {`not as ${typeWord(value.as)}`}
        </Button>
      )}
      {step.values.length > 1 && !withoutValues && (
        <button
          type="button"
          aria-label={`Leave out ${value.name}`}
          onClick={() => edit(removeItem(step, 'values', value))}
          className="p-1 align-middle text-ink-faint hover:text-ink"
        >
          <X size={16} strokeWidth={1.75} aria-hidden />
        </button>
      )}
      {found.map((problem, index) => (
        <span key={index} role="alert" className="flex flex-wrap items-center gap-2">
          <ProblemLine problem={problem} />
          {problem.code === 'unpivot-types' && <Conversions bench={bench} step={step.id} field={value.id} onTake={change} />}
        </span>
      ))}
    </th>
  );
}

function Line({ bench, unpivot, line }: Pick<UnpivotProps, 'bench' | 'unpivot'> & { readonly line: UnpivotLine }) {
  const { edit, withoutValues } = bench;
  const { step, problems, arriving } = unpivot;
  const { schema } = arriving[0] ?? NOTHING_ARRIVES;
  const found = problems.filter((each) => each.place.field === line.id);
  const change = (to: Partial<UnpivotLine>) => edit(setItem(step, 'lines', line, { ...line, ...to }));
  return (
    <tr className="border-b align-top">
      <td className="py-0.5">
        <TextSlot
          label={`Word of the row ${line.word}`}
          value={line.word}
          placeholder="word"
          wrong={found.some(({ code }) => code.startsWith('word'))}
          disabled={withoutValues}
          onKeep={(word) => change({ word: word.trim() })}
        />
        {found.map((problem, index) => (
          <span key={index} role="alert">
            <ProblemLine problem={problem} />
          </span>
        ))}
      </td>
      {step.values.map((value, at) => {
        const id = line.from[at] ?? null;
        const field = id === null ? undefined : fieldById(schema, id);
        return (
          <td key={value.id}>
            <FieldSlot
              label={`${value.name || 'value'} of ${line.word}`}
              schema={schema}
              field={field}
              missing={id !== null && !field}
              disabled={withoutValues}
              onField={(each) =>
                change({ from: step.values.map((_value, index) => (index === at ? each.id : (line.from[index] ?? null))) })
              }
            />
            {field ? (
              <span className="ml-1 text-meta text-ink-faint">{typeWord(field.type)}</span>
            ) : (
              <span className="ml-1 text-meta text-ink-faint">null</span>
            )}
          </td>
        );
      })}
      <td className="text-right">
        {!withoutValues && (
          <button
            type="button"
            aria-label={`Make no row of ${line.word}`}
            onClick={() => edit(removeItem(step, 'lines', line))}
            className="p-1 text-ink-faint hover:text-ink"
          >
            <X size={16} strokeWidth={1.75} aria-hidden />
          </button>
        )}
      </td>
    </tr>
  );
}
