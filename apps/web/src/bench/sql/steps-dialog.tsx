import { DialogTitle } from '@headlessui/react';
import { useMemo } from 'react';
import type { Question, SaidText, SameRows, SqlStep, StaysSql } from '@cendra/core';
import { checkTrail, emptyDefinition, heldAgainst, isNumber, listedWords, saidInstead, typeWord } from '@cendra/core';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import { grouped } from '../../ui/format';
import { Overlay } from '../../ui/overlay';
import { TextRows } from '../../ui/text-rows';
import type { Bench } from '../use-bench';
import type { Known } from './completion';
import { useSaid } from './use-said';

interface StepsDialogProps {
  readonly bench: Bench;
  readonly step: SqlStep;
  readonly known: Known;
  readonly onClose: () => void;
}

/** A text as steps: what they are, what stays SQL, and whether they give the same rows, before they are taken. */
export default function StepsDialog({ bench, step, known, onClose }: StepsDialogProps) {
  const { said, failure: unasked } = useSaid(bench, step, known);
  const question = useMemo((): (Question & { kind: 'same rows' }) | undefined => {
    if (said?.kind !== 'said') return undefined;
    return heldAgainst(step, said);
  }, [said, step]);
  const { answer, failure, again } = useAnswer(bench, question);
  const take = () => {
    if (said?.kind !== 'said') return;
    bench.edit(...saidInstead(bench.trail.definition, step, said));
    onClose();
  };
  const differ = answer !== undefined && (answer.differing.rows.length > 0 || answer.rows.text !== answer.rows.steps);
  return (
    <Overlay place="top" look="flex w-[60rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">Say it in steps</DialogTitle>
      <div className="min-h-0 overflow-auto px-3 py-2">
        {!said && !unasked && <p role="status">Looking for the steps …</p>}
        <FailureNotice failure={unasked} />
        {said?.kind === 'unsaid' && <Unsaid stays={said.stays} text={step.sql.text} />}
        {said?.kind === 'said' && (
          <>
            <Steps bench={bench} said={said} />
            <SwitchedOff bench={bench} off={said.off} />
            {said.stays.length > 0 && <Stays title="Stays SQL, in a step of its own" stays={said.stays} text={step.sql.text} />}
            <h3 className="mt-3 font-medium">The rows, both ways</h3>
            {!answer && !failure && <p role="status">Running the text and the steps, in one moment …</p>}
            <FailureNotice failure={failure} />
            {failure && (
              <Button small onClick={again}>
                Run both again
              </Button>
            )}
            {answer && <Compared answer={answer} />}
          </>
        )}
      </div>
      <div className="flex items-center justify-end gap-2 border-t px-3 py-2">
        {said?.kind === 'said' && (
          <Button small kind={differ ? 'plain' : 'primary'} disabled={!answer} onClick={take}>
            {differ ? 'Take the steps with their difference' : 'Take the steps'}
          </Button>
        )}
        <Button small onClick={onClose}>
          {said?.kind === 'said' ? 'Leave it SQL' : 'Close'}
        </Button>
      </div>
    </Overlay>
  );
}

interface StaysProps {
  readonly stays: readonly StaysSql[];
  readonly text: string;
}

function Unsaid(props: StaysProps) {
  return (
    <>
      <p role="status">No steps say this text, so it stays SQL.</p>
      <Stays title="What has no step" {...props} />
    </>
  );
}

function Stays({ title, stays, text }: StaysProps & { readonly title: string }) {
  return (
    <>
      <h3 className="mt-3 font-medium">{title}</h3>
      <ul aria-label={title}>
        {stays.map(({ words, because, position }, at) => (
          <li key={at} className="mt-1 border-l-2 border-line pl-2">
            <pre className="max-h-24 overflow-auto font-mono text-meta whitespace-pre-wrap">{words}</pre>
            <p className="text-ink-soft">
              {position && `line ${text.slice(0, position.from).split('\n').length}: `}
              {because}
            </p>
          </li>
        ))}
      </ul>
    </>
  );
}

function Steps({ bench, said }: { readonly bench: Bench; readonly said: SaidText & { readonly kind: 'said' } }) {
  const { parameters, calendar } = bench.trail.definition;
  const titles = useMemo(() => {
    const { steps } = checkTrail({ ...emptyDefinition(''), parameters, calendar, steps: said.steps, result: said.result });
    return steps.map(({ step, title }) => ({ id: step.id, kind: step.kind, title }));
  }, [said, parameters, calendar]);
  return (
    <ol aria-label="The steps" className="list-decimal pl-6">
      {titles.map(({ id, kind, title }) => (
        <li key={id} className="py-0.5">
          <span className="text-ink-soft">{kind}</span> {title}
        </li>
      ))}
    </ol>
  );
}

/** What parameters say of themselves from now on that the text said for them. */
function SwitchedOff({ bench, off }: { readonly bench: Bench; readonly off: readonly string[] }) {
  const names = bench.trail.definition.parameters.filter(({ id }) => off.includes(id)).map(({ name }) => `:${name}`);
  if (names.length === 0) return null;
  return (
    <p className="mt-2">
      {listedWords(names)} {names.length === 1 ? 'switches its' : 'switch their'} condition off when left blank, as the text did itself.
    </p>
  );
}

function Compared({ answer: { rows, retyped, leftOut, differing } }: { readonly answer: SameRows }) {
  const [inText, inSteps] = [grouped(Number(rows.text)), grouped(Number(rows.steps))];
  const same = differing.rows.length === 0 && rows.text === rows.steps;
  return (
    <>
      <p role="status">
        {same
          ? `Both give ${inText} ${rows.text === '1' ? 'row, and it is' : 'rows, and all are'} the same.`
          : `The text gives ${inText} rows, the steps ${inSteps}. These stand a different number of times${differing.more ? `, the first ${differing.rows.length} of them` : ''}:`}
      </p>
      {differing.rows.length > 0 && (
        <TextRows
          label="Rows that differ"
          names={['in the text', 'in the steps', ...differing.fields.map((each) => each.name)]}
          numbers={[true, true, ...differing.fields.map((each) => isNumber(each.type))]}
          rows={differing.rows.map((each) => [each.text, each.steps, ...each.values])}
        />
      )}
      {retyped.length > 0 && (
        <ul aria-label="Other types" className="mt-2">
          {retyped.map(({ name, text, steps }) => (
            <li key={name}>
              <b className="font-medium">{name}</b> is {typeWord(text)} in the text and {typeWord(steps)} in steps; held against one another
              as the latter.
            </li>
          ))}
        </ul>
      )}
      {leftOut.length > 0 && <p>Not held against one another, being JSON: {leftOut.join(', ')}.</p>}
    </>
  );
}
