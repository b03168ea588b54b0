import { Plus } from 'lucide-react';
import { useState } from 'react';
import type { CheckedOf, Clause, ClauseGroup, Edit } from '@cendra/core';
import { addClauseAfter, blankCondition, checkedOf, firstArriving, HEADS, replaceClause } from '@cendra/core';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { WORDS } from '../../ui/words';
import { mint } from '../mint';
import { ChoiceSlot } from '../slots';
import type { StepEditorProps } from '../step-kind';
import { ClauseLines } from './clause-lines';
import { SameCriteria } from './same-criteria';
import { StatementShown } from '../runnable/statement-shown';

interface CriteriaProps extends StepEditorProps {
  readonly criteria: CheckedOf<'criteria'>;
}

/** Criteria as a sentence with numbered clauses, like entries of a ledger: slots at the left, counts at the right. */
export default function CriteriaEditor(props: StepEditorProps) {
  const criteria = checkedOf('criteria', props.checked);
  return criteria && <Criteria {...props} criteria={criteria} />;
}

function Criteria({ bench, checked, criteria, clauses: counts, countsCurrent }: CriteriaProps) {
  const { edit, withoutValues } = bench;
  const { step } = criteria;
  const { schema } = firstArriving(criteria);
  // A new step begins with one clause that is to be filled.
  const [only] = step.clauses;
  const [fresh, setFresh] = useState(step.clauses.length === 1 && only?.kind === 'condition' && only.field === '' ? only.id : undefined);
  const adding = (edited: (clause: Clause) => Edit | undefined) => {
    const clause = blankCondition(mint);
    const added = edited(clause);
    if (!added) return;
    setFresh(clause.id);
    edit(added);
  };
  const add = (after?: Clause) => adding((clause) => addClauseAfter(step, after, clause));
  const addTo = (group: ClauseGroup) =>
    adding((clause) => replaceClause(step, group.id, [{ ...group, clauses: [...group.clauses, clause] }]));
  return (
    <div className="px-3 py-2">
      <div className="flex items-end justify-between gap-2">
        <p className="flex items-center gap-1">
          Keep rows where
          <ChoiceSlot
            label="How the clauses belong together"
            value={step.head}
            choices={HEADS}
            disabled={withoutValues}
            onChange={(head) => edit({ kind: 'set step', step: step.id, property: 'head', from: step.head, to: head })}
          />
          holds:
        </p>
        {counts && (
          <p className={`figures text-meta ${countsCurrent ? 'text-ink-soft' : 'text-amber italic'}`}>
            {grouped(counts.rows)} arrive,{' '}
            <strong title={WORDS.left} className="font-medium text-ink">
              {grouped(counts.left)} left
            </strong>
            {!countsCurrent && <span title={WORDS['out of date']}>, out of date</span>}
          </p>
        )}
      </div>
      <ClauseLines
        bench={bench}
        step={step}
        schema={schema}
        problems={checked.problems}
        counts={counts}
        countsCurrent={countsCurrent}
        fresh={fresh}
        onAdd={add}
        onAddTo={addTo}
      />
      {!withoutValues && (
        <div className="mt-2 flex items-center gap-3">
          <Button small icon={Plus} onClick={() => add()}>
            Add a clause
          </Button>
          <span className="text-meta text-ink-faint">
            F2 written form · Alt+↑↓ moves · Alt+Enter adds behind · Alt+O off · Alt+P parameter · Alt+G group
          </span>
        </div>
      )}
      {!withoutValues && <SameCriteria bench={bench} step={step.id} />}
      {!withoutValues && <StatementShown bench={bench} checked={checked} />}
    </div>
  );
}
