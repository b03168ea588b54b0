import { Plus } from 'lucide-react';
import { useState } from 'react';
import type { CheckedOf, Partner, SheetAmount, SheetLine } from '@cendra/core';
import { addItem, checkedOf, freeName, nextLine, partnerInput } from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import { Tick } from '../../ui/tick';
import { FailedRows } from '../failed-rows';
import { PartnerDialog } from '../join/bring-in';
import { mint } from '../mint';
import { StatementShown } from '../runnable/statement-shown';
import { ChoiceSlot } from '../slots';
import type { StepEditorProps } from '../step-kind';
import type { Bench } from '../use-bench';
import { AmountLine } from './amount-line';
import { ManyLines } from './many-lines';
import { Periods } from './periods';
import { SheetLineItem } from './sheet-line';

/** Lines in a fixed order: what each is called, and what its figures are. */
export default function LineSheetEditor(props: StepEditorProps) {
  const sheet = checkedOf('line sheet', props.checked);
  return sheet && <LineSheet {...props} sheet={sheet} />;
}

export interface SheetProps {
  readonly bench: Bench;
  readonly sheet: CheckedOf<'line sheet'>;
}

function LineSheet({ bench, checked, sheet, counts, onFailed }: StepEditorProps & SheetProps) {
  const { edit, withoutValues } = bench;
  const { step, problems } = sheet;
  const [fresh, setFresh] = useState<string>();
  const [many, setMany] = useState(false);
  const of = (id: string) => problems.filter((each) => each.place.field === id);
  const add = (given: Partial<SheetLine> = {}) => {
    const line = nextLine(mint, step, given);
    setFresh(line.id);
    edit(addItem(step, 'lines', line, step.lines.length));
  };
  const general = problems.filter(({ place }) => place.field === undefined);
  return (
    <div className="px-3 py-2">
      <ToldOf bench={bench} sheet={sheet} />
      <ol aria-label="Lines" className="mt-2 border-t">
        {step.lines.map((line, at) => (
          <li key={line.id} className="border-b py-1">
            <SheetLineItem
              bench={bench}
              sheet={sheet}
              line={line}
              at={at}
              problems={of(line.id)}
              fresh={fresh === line.id}
              onFresh={setFresh}
            />
          </li>
        ))}
        {step.lines.length === 0 && <li className="py-1 text-ink-soft">no line yet</li>}
      </ol>
      {!withoutValues && (
        <div className="mt-1 flex flex-wrap gap-2">
          <Button small icon={Plus} onClick={() => add()}>
            Add a line
          </Button>
          <Button small onClick={() => add({ kind: 'heading', figure: { from: 'nothing' } })}>
            A heading
          </Button>
          <Button small onClick={() => add({ kind: 'blank', place: '', figure: { from: 'nothing' } })}>
            A blank line
          </Button>
          <Button small onClick={() => setMany(true)}>
            One line per value …
          </Button>
        </div>
      )}
      <Amounts bench={bench} sheet={sheet} />
      {general.map((problem, index) => (
        <div key={index} role="alert" className="mt-2">
          <ProblemLine problem={problem} />
        </div>
      ))}
      {many && <ManyLines bench={bench} sheet={sheet} onDone={() => setMany(false)} />}
      <FailedRows count={counts[step.id]} what="could not be computed" onShow={onFailed} />
      {!withoutValues && <StatementShown bench={bench} checked={checked} />}
    </div>
  );
}

/** Which steps the lines are told of, and what stands where no row has a value. */
function ToldOf({ bench, sheet }: SheetProps) {
  const { edit, withoutValues } = bench;
  const { step, arriving } = sheet;
  const [adding, setAdding] = useState(false);
  const set = (property: 'empty' | 'texts', from: unknown, to: unknown) => edit({ kind: 'set step', step: step.id, property, from, to });
  const { definition, steps } = bench.trail;
  const at = definition.steps.findIndex((each) => each.id === step.id);
  const take = (partner: Partner) => {
    const { edits, step: id } = partnerInput(definition, bench.catalogue, partner, at);
    edit(...edits, { kind: 'set input', step: step.id, slot: step.inputs.length, from: null, to: id });
  };
  return (
    <p className="flex flex-wrap items-center gap-1.5">
      Each line is told of
      <span className="font-medium">{arriving.map((each, slot) => each.grain.rows || `input ${slot + 1}`).join(', ')}</span>
      {'; where no row has a value it is'}
      <ChoiceSlot
        label="What stands where no row has a value"
        value={step.empty}
        choices={['blank', '0']}
        disabled={withoutValues}
        onChange={(to) => set('empty', step.empty, to)}
      />
      <label className="flex items-center gap-1">
        <Tick
          checked={step.texts}
          label="figures also as they are shown"
          disabled={withoutValues}
          onChange={(on) => set('texts', step.texts, on)}
        />
        figures also as they are shown
      </label>
      {!withoutValues && step.inputs.length < MOST_INPUTS && (
        <Button small kind="quiet" onClick={() => setAdding(true)}>
          Told of another step too …
        </Button>
      )}
      {adding && (
        <PartnerDialog
          bench={{ ...bench, trail: { ...bench.trail, steps: steps.slice(0, at) } }}
          after={sheet}
          title="Lines are also told of …"
          onChoose={take}
          onDone={() => setAdding(false)}
        />
      )}
    </p>
  );
}

const MOST_INPUTS = 10;

/** The fields of figures: all rows, some of them, or made of the ones before. */
function Amounts({ bench, sheet }: SheetProps) {
  const { edit, withoutValues } = bench;
  const { step, problems } = sheet;
  const [periods, setPeriods] = useState(false);
  const names = new Set([...Object.values(step.names), ...step.amounts].map((each) => each.name));
  const add = (of: SheetAmount['of']) => {
    const amount: SheetAmount = {
      id: mint(),
      name: freeName(of.from === 'share' ? 'share' : 'amount', names),
      text: mint(),
      format: '',
      of,
    };
    edit(addItem(step, 'amounts', amount, step.amounts.length));
  };
  return (
    <>
      <p className="mt-3 font-medium">with figures in</p>
      <ol aria-label="Figures" className="border-t">
        {step.amounts.map((amount, at) => (
          <li key={amount.id} className="border-b py-1">
            <AmountLine
              bench={bench}
              sheet={sheet}
              amount={amount}
              at={at}
              problems={problems.filter((each) => each.place.field === amount.id)}
            />
          </li>
        ))}
      </ol>
      {!withoutValues && (
        <div className="mt-1 flex flex-wrap gap-2">
          <Button small icon={Plus} onClick={() => add({ from: 'rows', among: [] })}>
            Figures of some rows
          </Button>
          <Button small onClick={() => add({ from: 'amounts', expression: { text: '', refs: [] } })}>
            Of other figures
          </Button>
          <Button
            small
            onClick={() => add({ from: 'share', amount: step.amounts[0]?.id ?? '', line: step.lines[0]?.id ?? '', within: 'every line' })}
          >
            In percent of a line
          </Button>
          <Button small onClick={() => setPeriods(true)}>
            By period …
          </Button>
        </div>
      )}
      {periods && <Periods bench={bench} sheet={sheet} onDone={() => setPeriods(false)} />}
    </>
  );
}
