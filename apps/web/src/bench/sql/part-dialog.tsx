import { DialogTitle } from '@headlessui/react';
import { useEffect, useMemo, useState } from 'react';
import type { DescribedPart, PartRows, PartText, Question, SqlStep } from '@cendra/core';
import { api } from '../../api';
import type { Failure } from '../../api/problem';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { FailureNotice, ProblemLine } from '../../ui/notice';
import { Overlay } from '../../ui/overlay';
import { TextRows } from '../../ui/text-rows';
import type { Bench } from '../use-bench';
import { describePart } from './describe-part';

interface PartDialogProps {
  readonly bench: Bench;
  readonly step: SqlStep;
  /** What is chosen in the text, and as a statement of its own. */
  readonly chosen: string;
  readonly part: PartText;
  readonly onClose: () => void;
}

const WHAT = {
  query: 'This part alone',
  expression: 'This expression, over the rows of its select',
  condition: 'Both sides of this condition, over the rows it is asked of',
};

/** The first rows of a part of a text, with the values in use. */
export default function PartDialog({ bench, step, chosen, part, onClose }: PartDialogProps) {
  const texts = useMemo(() => (part.ok ? [part.text] : []), [part]);
  const { answers, failure, waiting } = useParts(bench, step, texts);
  const [rows] = answers ?? [];
  return (
    <Overlay place="top" look="flex w-[56rem] max-w-full flex-col" onClose={onClose}>
      <DialogTitle className="border-b px-3 py-2 font-medium">{part.ok ? WHAT[part.what] : 'A part of the text'}</DialogTitle>
      <div className="min-h-0 overflow-auto px-3 py-2">
        <pre className="max-h-24 overflow-auto bg-panel px-2 py-1 font-mono text-meta whitespace-pre-wrap">{chosen}</pre>
        {!part.ok && <ProblemLine problem={{ severity: 'hint', message: part.because }} />}
        <FailureNotice failure={failure} />
        {waiting && !failure && (
          <p role="status" className="mt-2 text-ink-soft">
            Running it …
          </p>
        )}
        {rows && <PartTable rows={rows} />}
      </div>
      <div className="flex justify-end border-t px-3 py-2">
        <Button small onClick={onClose}>
          Close
        </Button>
      </div>
    </Overlay>
  );
}

function PartTable({ rows: { fields, rows, cut } }: { readonly rows: PartRows }) {
  return (
    <>
      <p role="status" className="mt-2 text-ink-soft">
        {cut ? `The first ${rows.length} rows of a part` : `All ${rows.length} rows of a part`}, not of the dataset.
      </p>
      <TextRows label="Rows of the part" names={fields.map((each) => each.name)} rows={rows} />
    </>
  );
}

/** Parts of a text, described and then run in one moment; a part that is wrong is told in the source's words. */
export function useParts(
  bench: Bench,
  step: SqlStep,
  texts: readonly string[],
): { readonly answers: readonly PartRows[] | undefined; readonly failure: Failure | undefined; readonly waiting: boolean } {
  const { parts, wrong } = useDescribedParts(bench, step, texts);
  const question: (Question & { kind: 'parts' }) | undefined =
    parts && parts.length > 0 ? { kind: 'parts', step: step.id, parts } : undefined;
  const { answer, failure } = useAnswer(bench, question);
  return { answers: answer, failure: wrong ?? failure, waiting: texts.length > 0 && answer === undefined };
}

/** Parts of a text as their source describes them, or why it does not. */
export function useDescribedParts(
  { trail }: Bench,
  step: SqlStep,
  texts: readonly string[],
): { readonly parts: readonly DescribedPart[] | undefined; readonly wrong: Failure | undefined } {
  const [describe] = api.useTextsDescribeMutation();
  const [parts, setParts] = useState<readonly DescribedPart[]>();
  const [wrong, setWrong] = useState<Failure>();
  const { parameters } = trail.definition;
  useEffect(() => {
    let current = true;
    void Promise.all(texts.map((text) => describePart(describe, step.source, text, parameters))).then((all) => {
      if (!current) return;
      const failed = all.flatMap((each) => ('wrong' in each ? [each.wrong] : []))[0];
      setWrong(failed);
      setParts(failed ? undefined : all.flatMap((each) => ('part' in each ? [each.part] : [])));
    });
    return () => {
      current = false;
    };
  }, [texts, step.source, describe, parameters]);
  return { parts, wrong };
}
