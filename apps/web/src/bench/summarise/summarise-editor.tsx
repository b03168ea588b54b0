import { Plus } from 'lucide-react';
import { useMemo, useState } from 'react';
import type { CheckedOf, ExpressionText, SummaryKey, SummaryValue } from '@cendra/core';
import { addItem, checkedOf, firstArriving, freeName, removeItem, setItem } from '@cendra/core';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import { StatementShown } from '../runnable/statement-shown';
import { FailedRows } from '../failed-rows';
import { mint } from '../mint';
import type { StepEditorProps } from '../step-kind';
import { EveryGroupSentence } from './every-group-sentence';
import { KeyLine } from './key-line';
import { NestedKeys } from './nested-keys';
import { ValueLine } from './value-line';

/** “One row per region and month of picked on, with sum of kilos as kilos.” */
export default function SummariseEditor(props: StepEditorProps) {
  const summary = checkedOf('summarise', props.checked);
  return summary && <Summary {...props} summary={summary} />;
}

type SummaryProps = StepEditorProps & { readonly summary: CheckedOf<'summarise'> };

/** Whether every row is a group of its own, as the counts say. */
function asManyAs(counts: StepEditorProps['counts'], { id, inputs, keys }: CheckedOf<'summarise'>['step']): boolean {
  const [input] = inputs;
  const before = typeof input === 'string' ? counts[input]?.rows : undefined;
  return keys.length > 0 && before !== undefined && Number(before) > 1 && counts[id]?.rows === before;
}

const NOTHING: ExpressionText = { text: '', refs: [] };

function Summary({ bench, checked, summary, counts, onFailed }: SummaryProps) {
  const { edit, withoutValues } = bench;
  const { step, problems } = summary;
  const { schema } = firstArriving(summary);
  const [fresh, setFresh] = useState<string>();
  const names = useMemo(() => new Set([...step.keys, ...step.values].map((each) => each.name)), [step.keys, step.values]);
  const general = problems.filter(({ place, severity }) => place.field === undefined && severity !== 'hint');
  const addKey = () => {
    const key: SummaryKey = { id: mint(), name: '', expression: NOTHING };
    setFresh(key.id);
    edit(addItem(step, 'keys', key, step.keys.length));
  };
  const addValue = () => {
    const value: SummaryValue = {
      id: mint(),
      name: freeName('rows', names),
      aggregate: 'rows',
      expression: NOTHING,
      among: NOTHING,
      order: NOTHING,
    };
    setFresh(value.id);
    edit(addItem(step, 'values', value, step.values.length));
  };
  const of = (id: string) => problems.filter((each) => each.place.field === id);
  return (
    <div className="px-3 py-2">
      <p className="font-medium">One row per</p>
      <ol aria-label="Grouped by" className="border-t">
        {step.keys.map((key, at) => (
          <li key={key.id} className="border-b py-1">
            <KeyLine
              bench={bench}
              item={key}
              number={at + 1}
              schema={schema}
              names={names}
              type={summary.checked.keys[at]?.expression?.type}
              problems={of(key.id)}
              fresh={fresh === key.id}
              onChange={(to) => edit(setItem(step, 'keys', key, to))}
              onRename={(to) => edit({ kind: 'rename field', step: step.id, field: key.id, from: key.name, to })}
              onRemove={() => edit(removeItem(step, 'keys', key))}
            />
          </li>
        ))}
        {step.keys.length === 0 && <li className="py-1 text-ink-soft">nothing yet: all rows become one</li>}
      </ol>
      {!withoutValues && (
        <Button small icon={Plus} onClick={addKey}>
          Group by a field
        </Button>
      )}
      {step.keys.length > 1 && <NestedKeys bench={bench} step={step} blocked={checked.blocked} />}
      {step.keys.length > 0 && <EveryGroupSentence bench={bench} summary={summary} />}
      <p className="mt-3 font-medium">with</p>
      <ol aria-label="Figures" className="border-t">
        {step.values.map((value, at) => (
          <li key={value.id} className="border-b py-1">
            <ValueLine
              bench={bench}
              step={step.id}
              item={value}
              number={at + 1}
              schema={schema}
              names={names}
              problems={of(value.id)}
              fresh={fresh === value.id}
              onChange={(to) => edit(setItem(step, 'values', value, to))}
              onRename={(to) => edit({ kind: 'rename field', step: step.id, field: value.id, from: value.name, to })}
              onRemove={() => edit(removeItem(step, 'values', value))}
            />
          </li>
        ))}
      </ol>
      {!withoutValues && (
        <Button small icon={Plus} onClick={addValue}>
          Add a figure
        </Button>
      )}
      {general.map((problem, index) => (
        <div key={index} role="alert" className="mt-2">
          <ProblemLine problem={problem} />
        </div>
      ))}
      <FailedRows count={counts[step.id]} what="could not be computed" onShow={onFailed} />
      {asManyAs(counts, step) && <p className="mt-2 text-amber">There are as many groups as rows: nothing is summed up by these fields.</p>}
      {!withoutValues && <StatementShown bench={bench} checked={checked} />}
    </div>
  );
}
