import type { CheckedOf } from '@cendra/core';
import { checkedOf } from '@cendra/core';
import { ProblemLine } from '../../ui/notice';
import { StatementShown } from '../criteria/statement-shown';
import type { StepEditorProps } from '../step-kind';
import { JoinSentence } from './join-sentence';
import { Ledger } from './ledger';
import { PartnerFields } from './partner-fields';
import { Proposals } from './proposals';

export interface JoinProps extends StepEditorProps {
  readonly join: CheckedOf<'join'>;
}

/** A join as a sentence with its pairs, the ledger of what becomes of both sides' rows, and the fields brought in. */
export default function JoinEditor(props: StepEditorProps) {
  const join = checkedOf('join', props.checked);
  return join && <Join {...props} join={join} />;
}

function Join(props: JoinProps) {
  const { bench, join } = props;
  const [left, right] = join.arriving;
  const whole = left?.grain.row !== '' && right?.grain.row !== '';
  const elsewhere = join.problems.filter(
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
        {whole && !bench.withoutValues && <Proposals {...props} />}
        {whole && !bench.withoutValues && <Ledger {...props} />}
        {!bench.withoutValues && <StatementShown bench={bench} checked={join} />}
      </div>
      {whole && <PartnerFields {...props} />}
    </div>
  );
}
