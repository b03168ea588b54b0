import { X } from 'lucide-react';
import type { Problem, Schema } from '@cendra/core';
import { ProblemLine } from '../../ui/notice';
import { TextSlot } from '../slots';
import type { Bench } from '../use-bench';

/** What a line of the editor is given: a key or a figure. */
export interface LineProps<I> {
  readonly bench: Bench;
  readonly item: I;
  readonly number: number;
  readonly schema: Schema;
  /** Names that are taken in the step. */
  readonly names: ReadonlySet<string>;
  readonly problems: readonly Problem[];
  readonly fresh: boolean;
  readonly onChange: (to: I) => void;
  readonly onRename: (to: string) => void;
  readonly onRemove: () => void;
}

interface LineEndProps extends Pick<LineProps<{ readonly name: string }>, 'bench' | 'item' | 'problems' | 'onRename' | 'onRemove'> {
  /** What the line is called for who cannot see it: “group 1”. */
  readonly called: string;
}

/** The name a line's field gets, and the way to take the line out. */
export function LineEnd({ bench, item, called, problems, onRename, onRemove }: LineEndProps) {
  return (
    <>
      as
      <TextSlot
        label={`Name of ${called}`}
        value={item.name}
        placeholder="name"
        wrong={problems.some(({ code }) => code.startsWith('name'))}
        disabled={bench.withoutValues}
        onKeep={(to) => onRename(to.trim())}
      />
      {!bench.withoutValues && (
        <button
          type="button"
          aria-label={`Remove ${item.name || called}`}
          onClick={onRemove}
          className="ml-auto p-1 text-ink-faint hover:text-ink"
        >
          <X size={16} strokeWidth={1.75} aria-hidden />
        </button>
      )}
    </>
  );
}

export const LineProblems = ({ problems }: { readonly problems: readonly Problem[] }) =>
  problems.map((problem, index) => (
    <div key={index} role="alert" className="pl-8">
      <ProblemLine problem={problem} />
    </div>
  ));
