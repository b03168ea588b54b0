import { X } from 'lucide-react';
import type { Problem, SheetAmount } from '@cendra/core';
import { amongOf, lineNames, linkReferences, removeItem, setItem } from '@cendra/core';
import { ProblemLine } from '../../ui/notice';
import { ChoiceSlot, TextSlot } from '../slots';
import type { SheetProps } from './line-sheet-editor';

interface AmountProps extends SheetProps {
  readonly amount: SheetAmount;
  /** Its place among the amounts, from 0. */
  readonly at: number;
  readonly problems: readonly Problem[];
}

/** A field of figures: of which rows, or of which figures. */
export function AmountLine({ bench, sheet, amount, at, problems }: AmountProps) {
  const { edit, withoutValues } = bench;
  const { step } = sheet;
  const change = (to: Partial<SheetAmount>) => edit(setItem(step, 'amounts', amount, { ...amount, ...to }));
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="figures w-6 text-right text-ink-soft">{at + 1}</span>
        <TextSlot
          label={`Name of figures ${at + 1}`}
          value={amount.name}
          placeholder="name"
          wrong={problems.some(({ code }) => code.startsWith('name'))}
          disabled={withoutValues}
          onKeep={(to) => edit({ kind: 'rename field', step: step.id, field: amount.id, from: amount.name, to: to.trim() })}
        />
        <AmountSlots bench={bench} sheet={sheet} amount={amount} at={at} onChange={(of) => change({ of })} />
        <span className="text-ink-soft">
          shown as{' '}
          <TextSlot
            label={`Pattern of ${amount.name}`}
            value={amount.format}
            placeholder="each line says"
            look="font-mono"
            disabled={withoutValues}
            onKeep={(format) => change({ format: format.trim() })}
          />
        </span>
        {!withoutValues && step.amounts.length > 1 && (
          <button
            type="button"
            aria-label={`Leave out ${amount.name}`}
            onClick={() => edit(removeItem(step, 'amounts', amount))}
            className="ml-auto p-1 text-ink-faint hover:text-ink"
          >
            <X size={16} strokeWidth={1.75} aria-hidden />
          </button>
        )}
      </div>
      {problems.map((problem, index) => (
        <div key={index} role="alert" className="pl-8">
          <ProblemLine problem={problem} />
        </div>
      ))}
    </>
  );
}

interface AmountSlotsProps extends Omit<AmountProps, 'problems'> {
  readonly onChange: (of: SheetAmount['of']) => void;
}

function AmountSlots({ bench, sheet, amount, at, onChange }: AmountSlotsProps) {
  const { of } = amount;
  const { step, arriving } = sheet;
  const { parameters } = bench.trail.definition;
  const before = step.amounts.slice(0, at);
  if (of.from === 'amounts')
    return (
      <>
        as
        <TextSlot
          label={`What ${amount.name} is calculated as`}
          value={of.expression.text}
          placeholder="figures above by their names"
          look="font-mono"
          disabled={bench.withoutValues}
          onKeep={(text) =>
            onChange({ from: 'amounts', expression: linkReferences(text, { schema: { fields: before } as never, parameters }) })
          }
        />
      </>
    );
  if (of.from === 'share') {
    const names = lineNames(step.lines);
    const lines = step.lines.filter((each) => each.kind === 'line' || each.kind === 'total');
    return (
      <>
        is
        <ChoiceSlot
          label={`What ${amount.name} is a share of`}
          value={before.find((each) => each.id === of.amount)?.name ?? ''}
          choices={before.map((each) => each.name)}
          wrong={!before.some((each) => each.id === of.amount)}
          disabled={bench.withoutValues}
          onChange={(name) => onChange({ ...of, amount: before.find((each) => each.name === name)?.id ?? '' })}
        />
        in percent of the line
        <ChoiceSlot
          label={`The line that is 100 % of ${amount.name}`}
          value={names.get(of.line) ?? ''}
          choices={lines.flatMap(({ id }) => names.get(id) ?? [])}
          wrong={!names.has(of.line)}
          disabled={bench.withoutValues}
          onChange={(name) => onChange({ ...of, line: lines.find(({ id }) => names.get(id) === name)?.id ?? '' })}
        />
        in
        <ChoiceSlot
          label={`In which lines ${amount.name} stands`}
          value={of.within}
          choices={['every line', 'its parts']}
          disabled={bench.withoutValues}
          onChange={(within) => onChange({ ...of, within })}
        />
      </>
    );
  }
  return arriving.map(({ schema, grain }, slot) => (
    <span key={slot} className="flex flex-wrap items-center gap-1.5">
      {slot === 0 ? 'of' : ', and'} {grain.rows || `input ${slot + 1}`} where
      <TextSlot
        label={`Among which ${grain.rows || `rows of input ${slot + 1}`} ${amount.name} is told`}
        value={amongOf(amount, slot).text}
        placeholder="any, or a condition"
        look="font-mono"
        disabled={bench.withoutValues}
        onKeep={(text) =>
          onChange({
            from: 'rows',
            among: arriving.map((_each, index) => (index === slot ? linkReferences(text, { schema, parameters }) : amongOf(amount, index))),
          })
        }
      />
    </span>
  ));
}
