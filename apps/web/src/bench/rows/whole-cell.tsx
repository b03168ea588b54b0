import { DialogTitle } from '@headlessui/react';
import type { Question } from '@cendra/core';
import { TEXT_SHOWN } from '@cendra/core';
import { api } from '../../api';
import type { Failure } from '../../api/problem';
import { failureOf } from '../../api/problem';
import { useAnswer } from '../../runs/use-answer';
import { Button } from '../../ui/button';
import { FailureNotice } from '../../ui/notice';
import { grouped } from '../../ui/format';
import { Waiting } from '../../ui/waiting';
import type { Bench } from '../use-bench';
import { Overlay } from '../../ui/overlay';

interface WholeCellProps {
  readonly result: string;
  readonly row: string;
  readonly field: string;
  readonly name: string;
  /** Asks the source for a text of which only the beginning was brought; left out where the row cannot be told there. */
  readonly more: WholeTextOf | undefined;
  readonly onClose: () => void;
}

export interface WholeTextOf {
  readonly bench: Bench;
  readonly question: Extract<Question, { readonly kind: 'text' }>;
}

/** The whole text of a cell that the grid shows cut; what was not brought of it is asked for now. */
export function WholeCell({ result, row, field, name, more, onClose }: WholeCellProps) {
  const cell = api.useResultsCellQuery({ id: result, row, field });
  const brought = cell.data?.text ?? '';
  const lacks = cell.data !== undefined && cell.data.length > brought.length;
  return more && lacks ? (
    <AskedCell more={more} brought={brought} length={cell.data?.length ?? 0} name={name} onClose={onClose} />
  ) : (
    <Shown
      text={cell.data ? brought : undefined}
      length={cell.data?.length ?? 0}
      failure={failureOf(cell.error)}
      name={name}
      onClose={onClose}
    />
  );
}

interface AskedCellProps {
  readonly more: WholeTextOf;
  readonly brought: string;
  readonly length: number;
  readonly name: string;
  readonly onClose: () => void;
}

/** The beginning stands there until the rest has come. */
function AskedCell({ more, brought, length, name, onClose }: AskedCellProps) {
  const { answer, failure } = useAnswer(more.bench, more.question);
  return <Shown text={answer?.text ?? brought} length={length} failure={failure} name={name} onClose={onClose} />;
}

interface ShownProps {
  readonly text: string | undefined;
  readonly length: number;
  readonly failure: Failure | undefined;
  readonly name: string;
  readonly onClose: () => void;
}

function Shown({ text, length, failure, name, onClose }: ShownProps) {
  return (
    <Overlay place="middle" look="flex w-full max-w-3xl flex-col gap-2 p-4" onClose={onClose}>
      <DialogTitle className="font-medium">{name}</DialogTitle>
      {text !== undefined ? (
        <pre tabIndex={0} className="min-h-0 overflow-auto border bg-panel p-2 font-mono text-meta break-words whitespace-pre-wrap">
          {text.slice(0, TEXT_SHOWN)}
        </pre>
      ) : failure ? (
        <FailureNotice failure={failure} />
      ) : (
        <Waiting what="Reading the text" />
      )}
      {text !== undefined && length > Math.min(text.length, TEXT_SHOWN) && (
        <p className="text-meta text-ink-soft">
          The first {grouped(Math.min(text.length, TEXT_SHOWN))} of {grouped(length)} characters; the take-away of all rows has them all.
        </p>
      )}
      {text !== undefined && <FailureNotice failure={failure} />}
      <Button onClick={onClose}>Close</Button>
    </Overlay>
  );
}
