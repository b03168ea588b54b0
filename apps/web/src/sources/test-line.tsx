import { CircleCheck } from 'lucide-react';
import type { TestAnswerDto } from '../api';
import { FailureNotice } from '../ui/notice';

interface TestLineProps {
  readonly answer: TestAnswerDto;
  readonly stale: boolean;
  readonly when?: string;
  /** What is wrong stands at its setting already; only the source's own words remain to be told. */
  readonly placed?: boolean;
}

/** A test's answer in one line: as whom, which server, how fast; or what is wrong. */
export function TestLine({ answer, stale, when, placed = false }: TestLineProps) {
  return (
    <div role="status">
      {answer.ok ? (
        <p className={`flex items-center gap-1 ${stale ? 'text-ink-soft' : 'text-moss'}`}>
          <CircleCheck size={16} strokeWidth={1.75} aria-hidden />
          <span>
            Answers as <em>{answer.user}</em>, {answer.server}, {answer.ms} ms.
          </span>
          <span className="text-ink-soft">
            {answer.tables} tables can be read{when === undefined ? '' : `, tested ${when}`}.
          </span>
        </p>
      ) : (
        <FailureNotice
          failure={{
            status: 502,
            problems: answer.problem && !placed ? [answer.problem] : [],
            ...(answer.detail === undefined ? {} : { detail: answer.detail }),
          }}
        />
      )}
      {stale && <p className="text-amber">A setting changed since this test. Test again.</p>}
    </div>
  );
}
