import { ChevronDown, ChevronUp, Plus, X } from 'lucide-react';
import { useRef, useState } from 'react';
import type { CheckedField, CheckedOf } from '@cendra/core';
import { addItem, checkedOf, removeItem, typeWord } from '@cendra/core';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { EmptyState } from '../../ui/notice';
import { mint } from '../mint';
import type { StepEditorProps } from '../step-kind';
import { CalendarSentence } from './calendar-sentence';
import { FieldEditor } from './field-editor';

interface CalculationProps extends StepEditorProps {
  readonly calculation: CheckedOf<'calculate'>;
}

/** Calculated fields as a ledger at the left, and the one being written beside its values. */
export default function CalculateEditor(props: StepEditorProps) {
  const calculation = checkedOf('calculate', props.checked);
  return calculation && <Calculation {...props} calculation={calculation} />;
}

function Calculation({ bench, calculation, counts, onFailed }: CalculationProps) {
  const { edit, withoutValues } = bench;
  const { step, checked: fields } = calculation;
  const count = counts[step.id];
  const [chosen, setChosen] = useState(step.fields[0]?.id);
  const open = fields.find((each) => each.field.id === chosen) ?? fields[0];
  const list = useRef<HTMLOListElement>(null);

  const add = () => {
    const field = { id: mint(), name: '', expression: { text: '', refs: [] } };
    edit(addItem(step, 'fields', field, step.fields.length));
    setChosen(field.id);
  };
  const move = (at: number, by: number) => {
    const moved = step.fields.toSpliced(at, 1);
    const field = step.fields[at];
    if (field) edit({ kind: 'set step', step: step.id, property: 'fields', from: step.fields, to: moved.toSpliced(at + by, 0, field) });
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    const at = fields.findIndex((each) => each === open);
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (by === undefined || event.altKey || event.ctrlKey) return;
    event.preventDefault();
    const next = fields[Math.min(fields.length - 1, Math.max(0, at + by))];
    if (!next) return;
    setChosen(next.field.id);
    list.current?.querySelectorAll<HTMLElement>('[data-field]')[fields.indexOf(next)]?.focus();
  };
  return (
    <div className="@container h-full">
      <div className="flex h-full min-h-0">
        <div className="flex w-56 shrink-0 flex-col border-r bg-panel @max-xl:w-40">
          <ol ref={list} aria-label="Calculated fields" onKeyDown={onKeyDown} className="min-h-16 flex-1 overflow-auto">
            {fields.map((each, index) => (
              <FieldLine
                key={each.field.id}
                checked={each}
                on={each === open}
                failed={count?.fields.find((one) => one.field === each.field.id)?.failed ?? '0'}
                locked={withoutValues}
                first={index === 0}
                last={index === fields.length - 1}
                onChoose={() => setChosen(each.field.id)}
                onFailed={() => onFailed(each.field.id)}
                onMove={(by) => move(index, by)}
                onRemove={() => edit(removeItem(step, 'fields', each.field))}
              />
            ))}
          </ol>
          {!withoutValues && (
            <div className="border-t p-1">
              <Button small kind="quiet" icon={Plus} onClick={add}>
                Add a field
              </Button>
            </div>
          )}
          <CalendarSentence bench={bench} />
        </div>
        {open ? (
          <FieldEditor key={open.field.id} bench={bench} step={step} checked={open} />
        ) : (
          <EmptyState>Nothing calculated yet. Add a field, name it, and write what it is.</EmptyState>
        )}
      </div>
    </div>
  );
}

interface FieldLineProps {
  readonly checked: CheckedField;
  readonly on: boolean;
  readonly failed: string;
  readonly locked: boolean;
  readonly first: boolean;
  readonly last: boolean;
  readonly onChoose: () => void;
  readonly onFailed: () => void;
  readonly onMove: (by: number) => void;
  readonly onRemove: () => void;
}

const SMALL = 'flex size-6 items-center justify-center text-ink-faint hover:text-ink disabled:opacity-30';

/** One calculated field: name, type, and in how many rows it failed. */
function FieldLine({ checked, on, failed, locked, first, last, onChoose, onFailed, onMove, onRemove }: FieldLineProps) {
  const { field, expression, problems } = checked;
  const wrong = problems.some((each) => each.severity === 'error');
  const name = field.name || 'without a name';
  return (
    <li className={`border-b border-l-2 py-1 ${on ? 'border-l-ember bg-paper' : 'border-l-transparent'}`}>
      <button
        type="button"
        data-field={field.id}
        aria-current={on || undefined}
        onClick={onChoose}
        className="flex w-full items-baseline gap-1 px-2 text-left"
      >
        {wrong ? <span className="text-rust">!</span> : <span className="text-plum">=</span>}
        <span className={`truncate ${wrong ? 'underline decoration-rust decoration-wavy underline-offset-4' : ''}`}>{name}</span>
        <span className="ml-auto shrink-0 pl-2 text-meta text-ink-soft">
          {expression
            ? typeWord(expression.type)
            : wrong
              ? field.expression.text.trim() === ''
                ? 'nothing written'
                : 'not understood'
              : ''}
        </span>
      </button>
      {failed !== '0' && (
        <button type="button" onClick={onFailed} className="ml-5 text-meta text-amber underline underline-offset-2">
          failed in {grouped(failed)} {failed === '1' ? 'row' : 'rows'}
        </button>
      )}
      {on && !locked && (
        <div className="flex justify-end pr-1">
          <button type="button" className={SMALL} aria-label={`Move ${name} up`} disabled={first} onClick={() => onMove(-1)}>
            <ChevronUp size={16} strokeWidth={1.75} aria-hidden />
          </button>
          <button type="button" className={SMALL} aria-label={`Move ${name} down`} disabled={last} onClick={() => onMove(1)}>
            <ChevronDown size={16} strokeWidth={1.75} aria-hidden />
          </button>
          <button type="button" className={SMALL} aria-label={`Remove ${name}`} onClick={onRemove}>
            <X size={16} strokeWidth={1.75} aria-hidden />
          </button>
        </div>
      )}
    </li>
  );
}
