import { useMemo } from 'react';
import type { Definition, Edit } from '@cendra/core';
import { applyEdits, editsBetween, editSentence, equal, readDefinition } from '@cendra/core';
import { api } from '../../api';
import { failureOf } from '../../api/problem';
import { Button } from '../../ui/button';
import { FailureNotice, ProblemLine } from '../../ui/notice';
import { Waiting } from '../../ui/waiting';
import type { Bench } from '../use-bench';

interface ComparisonProps {
  readonly bench: Bench;
  readonly from: number;
  readonly until: number;
  readonly onClose: () => void;
}

/** What changed from one revision to another, in words, and the way back to the older one. */
export function Comparison({ bench, from, until, onClose }: ComparisonProps) {
  const older = useRevision(bench.id, from);
  const newer = useRevision(bench.id, until);
  const sentences = useMemo(
    () => (older.definition && newer.definition ? differences(older.definition, newer.definition) : undefined),
    [older.definition, newer.definition],
  );
  const now = bench.bench.definition;
  const back = older.definition && !equal(older.definition, now) ? () => editsBetween(now, older.definition as Definition) : undefined;
  const failure = older.failure ?? newer.failure;
  return (
    <section aria-label="Comparison" className="sticky top-0 z-10 max-h-[50vh] space-y-2 overflow-auto border-b bg-panel px-3 py-2">
      <h3 className="font-medium">
        From r{from} to r{until}
        {until === bench.bench.saved.revision ? ', which is now' : ''}
      </h3>
      <FailureNotice failure={failure} />
      {older.unreadable && <ProblemLine problem={{ severity: 'warning', message: `Revision ${from} cannot be read here.` }} />}
      {sentences === undefined ? (
        !failure && !older.unreadable && <Waiting what="Reading both revisions" />
      ) : sentences.length === 0 ? (
        <p>Both are the same.</p>
      ) : (
        <ol className="list-disc pl-4">
          {sentences.map((sentence, index) => (
            <li key={index}>{sentence}</li>
          ))}
        </ol>
      )}
      <div className="flex gap-2">
        {back && !bench.withoutValues && (
          <Button small kind="primary" onClick={() => bench.goBack(from, back())}>
            Go back to r{from}
          </Button>
        )}
        <Button small onClick={onClose}>
          Close
        </Button>
      </div>
    </section>
  );
}

function differences(from: Definition, to: Definition): readonly string[] {
  let current = from;
  return editsBetween(from, to).map((edit: Edit) => {
    const sentence = editSentence(edit, current);
    current = applyEdits(current, [edit]);
    return sentence;
  });
}

/** A revision as it reads today: one of an older version is brought forward. */
function useRevision(id: string, revision: number) {
  const answer = api.useDatasetsOneQuery({ id, revision });
  const read = useMemo(
    () => (answer.currentData?.definition ? readDefinition(answer.currentData.definition) : undefined),
    [answer.currentData],
  );
  return {
    definition: read && 'definition' in read ? read.definition : undefined,
    unreadable: (answer.currentData?.problems.length ?? 0) > 0 || (read !== undefined && 'problems' in read),
    failure: failureOf(answer.error),
  };
}
