import type { Checked, CheckedJoin, JoinPlace, JoinStep, Problem } from '@cendra/core';
import { checkedOf, refillEdits } from '@cendra/core';
import { useMemo, useState } from 'react';
import { Button } from '../../ui/button';
import { ProblemLine } from '../../ui/notice';
import { StatementShown } from '../runnable/statement-shown';
import type { StepEditorProps } from '../step-kind';
import { PartnerDialog } from './bring-in';
import type { JoinChanging } from './changing';
import { changingJoin } from './changing';
import { JoinSentence } from './join-sentence';
import { Ledger } from './ledger';
import { PartnerFields } from './partner-fields';
import { Proposals } from './proposals';

export interface JoinProps extends StepEditorProps {
  readonly join: Checked<JoinStep, CheckedJoin>;
  /** What is wrong with it. */
  readonly problems: readonly Problem[];
  readonly place: JoinPlace;
  readonly change: JoinChanging;
}

/** A join as a sentence with its pairs, the ledger of what becomes of both sides' rows, and the fields brought in. */
export default function JoinEditor(props: StepEditorProps) {
  const join = checkedOf('join', props.checked);
  const step = props.checked.step.id;
  const place = useMemo(() => ({ step }), [step]);
  if (!join) return undefined;
  const change = changingJoin(join.step, props.bench.edit);
  return <Join {...props} join={join} problems={join.problems} place={place} change={change} />;
}

function Join(props: JoinProps) {
  const { bench, join, problems } = props;
  const [left, right] = join.arriving;
  const whole = left?.grain.row !== '' && right?.grain.row !== '';
  const elsewhere = problems.filter(
    ({ place, severity }) => place.clause === undefined && place.field === undefined && severity !== 'hint',
  );
  const told = elsewhere.filter(({ code }) => code !== 'pairs-missing');
  return (
    <div className="flex min-h-full">
      <div className="min-w-0 flex-1 px-3 py-2">
        <JoinSentence {...props} />
        {told.length > 0 && (
          <div role="alert" className="mt-2 space-y-1">
            {told.map((problem, index) => (
              <ProblemLine key={index} problem={problem} />
            ))}
          </div>
        )}
        {!whole && !bench.withoutValues && <Refill {...props} />}
        {whole && !bench.withoutValues && <Proposals {...props} />}
        {whole && !bench.withoutValues && <Ledger {...props} />}
        {!bench.withoutValues && <StatementShown bench={bench} checked={props.checked} />}
      </div>
      {whole && <PartnerFields {...props} />}
    </div>
  );
}

/** A side that nothing comes into any more is filled again; its fields are found by their names. */
function Refill({ bench, join }: JoinProps) {
  const [open, setOpen] = useState(false);
  const { step, arriving } = join;
  const slot = arriving[0]?.grain.row === '' ? 0 : 1;
  const known = bench.trail.steps.find((each) => each.step.id === step.inputs[1 - slot]);
  if (!known) return null;
  return (
    <div className="mt-2">
      <Button small onClick={() => setOpen(true)}>
        Choose what comes in {slot === 0 ? 'first' : 'as the partners'} …
      </Button>
      {open && (
        <PartnerDialog
          bench={{ ...bench, trail: { ...bench.trail, steps: standingBefore(bench.trail, step.id) } }}
          after={known}
          title="What comes in there"
          onChoose={(partner) => bench.edit(...refillEdits(bench.trail.definition, bench.catalogue, step, slot, partner))}
          onDone={() => setOpen(false)}
        />
      )}
    </div>
  );
}

const standingBefore = ({ steps }: JoinProps['bench']['trail'], id: string) =>
  steps.slice(
    0,
    steps.findIndex((each) => each.step.id === id),
  );
