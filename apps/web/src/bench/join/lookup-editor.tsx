import { Plus } from 'lucide-react';
import { useMemo, useState } from 'react';
import type { CheckedOf, LookupPartner } from '@cendra/core';
import { checkedOf } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { FailureNotice, ProblemLine } from '../../ui/notice';
import { StatementShown } from '../runnable/statement-shown';
import type { StepEditorProps } from '../step-kind';
import { changingPartner } from './changing';
import type { JoinProps } from './join-editor';
import { JoinSentence } from './join-sentence';
import { severalOf, wordsOf } from './sides';
import { LookUp, withoutPartner } from './look-up';
import { Remedies, WorstKeys } from './multiplied';
import { NearMissNotice } from './near-misses';
import { PartnerFields } from './partner-fields';
import { Proposals } from './proposals';

/** Fields looked up along keys: for each partner which row is found, how often it is, and what is brought. */
export default function LookupEditor(props: StepEditorProps) {
  const lookup = checkedOf('lookup', props.checked);
  return lookup && <Lookup {...props} lookup={lookup} />;
}

function Lookup(props: StepEditorProps & { readonly lookup: CheckedOf<'lookup'> }) {
  const { bench, lookup } = props;
  const { step } = lookup;
  const [adding, setAdding] = useState(step.partners.length === 0 && !bench.withoutValues);
  return (
    <div className="px-3 py-2">
      {step.partners.length === 0 && (
        <p className="text-ink-soft">Nothing is looked up yet. Name a table, or a step, whose fields are wanted.</p>
      )}
      {step.partners.map((partner, at) => (
        <Partner key={partner.id} {...props} partner={partner} at={at} />
      ))}
      {!bench.withoutValues && (
        <div className="mt-2">
          <Button small icon={Plus} onClick={() => setAdding(true)}>
            Look up one more
          </Button>
        </div>
      )}
      {adding && <LookUp bench={bench} lookup={lookup} onDone={() => setAdding(false)} />}
      {!bench.withoutValues && <StatementShown bench={bench} checked={props.checked} />}
    </div>
  );
}

interface PartnerProps extends StepEditorProps {
  readonly lookup: CheckedOf<'lookup'>;
  readonly partner: LookupPartner;
  readonly at: number;
}

function Partner(props: PartnerProps) {
  const { bench, lookup, partner, at } = props;
  const { step, checked, problems: all } = lookup;
  const place = useMemo(() => ({ step: step.id, partner: partner.id }), [step.id, partner.id]);
  const join = checked.joins[at];
  if (!join) return null;
  const problems = all.filter((each) => each.place.item === partner.id);
  const own: JoinProps = { ...props, join, problems, place, change: changingPartner(step, partner, bench.edit) };
  const { rows } = wordsOf(own)[1];
  return (
    <section aria-label={`Partner ${at + 1}: ${rows}`} className="mb-3 border-b pb-3">
      <div className="flex items-start gap-2">
        <div className="min-w-0 flex-1">
          <JoinSentence {...own} />
        </div>
        {!bench.withoutValues && (
          <Button small kind="quiet" onClick={() => bench.edit(...withoutPartner(step, at))}>
            Do not look up {rows}
          </Button>
        )}
      </div>
      {problems
        .filter(({ place: of, code }) => of.clause === undefined && of.field === undefined && code !== 'pairs-missing')
        .map((problem, index) => (
          <div key={index} role="alert" className="mt-1">
            <ProblemLine problem={problem} />
          </div>
        ))}
      {!bench.withoutValues && <Proposals {...own} />}
      {!bench.withoutValues && <Found {...own} />}
      <PartnerFields {...own} wide />
    </section>
  );
}

/** How many rows find a partner, find none, and ask with null; where several would be found, the worst keys and the remedies. */
function Found(props: JoinProps) {
  const { bench, join, problems, place } = props;
  const several = problems.some(({ code }) => code === 'lookup-several');
  const sound = join.step.pairs.length > 0 && !problems.some(({ severity, code }) => severity === 'error' && code !== 'lookup-several');
  const question = useMemo(() => (sound ? ({ kind: 'evidence', ...place } as const) : undefined), [sound, place]);
  const { answer, waiting, failure } = useAnswer(bench, question);
  const [left, right] = wordsOf(props);
  if (!question) return null;
  const found = answer?.left.partners.reduce((sum, each) => sum + BigInt(each.rows), 0n);
  return (
    <div className="mt-2">
      {waiting && <p className="text-ink-soft">Counting …</p>}
      <FailureNotice failure={failure} />
      {answer && (
        <p className="figures">
          <span className="text-moss">{grouped(String(found))} found</span>, {grouped(answer.left.alone.rows)} not found,{' '}
          {grouped(answer.left.nulls.rows)} {left.rows} ask with null
          {severalOf(answer.left).rows !== '0' && (
            <span className="text-rust">
              ; {grouped(severalOf(answer.left).rows)} {left.rows} would find several {right.rows}
            </span>
          )}
          .
        </p>
      )}
      {answer && several && <WorstKeys evidence={answer} />}
      {!bench.withoutValues && (several || join.step.one) && <Remedies join={join} change={props.change} withNote={false} />}
      {answer && <NearMissNotice {...props} />}
    </div>
  );
}
