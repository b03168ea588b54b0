import { ArrowLeft } from 'lucide-react';
import { useState } from 'react';
import type { ExpressionText } from '@cendra/core';
import { FRAME_ROWS } from '@cendra/core';
import { Button } from '../../ui/button';
import { grouped } from '../../ui/format';
import { FailureNotice } from '../../ui/notice';
import { RowsGrid } from '../rows/rows-grid';
import { useRowsView } from '../rows/use-rows-view';
import type { Bench } from '../use-bench';
import { Value } from './live-values';
import { useFrame } from './use-calculation';
import type { Frame, ShownTrace } from './values';

interface TraceViewProps {
  readonly bench: Bench;
  readonly step: string;
  readonly field: string;
  readonly name: string;
  readonly expression: ExpressionText;
  readonly trace: ShownTrace;
  readonly onBack: () => void;
  readonly onPoint: (at: { readonly from: number; readonly to: number }) => void;
}

/** One row: how its value came about, part by part as the text is nested, each with its own value. */
export function TraceView({ bench, step, field, name, expression, trace, onBack, onPoint }: TraceViewProps) {
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-center gap-2 border-b px-2 py-1">
        <Button small kind="quiet" icon={ArrowLeft} onClick={onBack} autoFocus>
          All values
        </Button>
        <span className="text-ink-soft">How this {name} came about</span>
      </div>
      <ol className="min-h-0 flex-1 overflow-auto py-1" aria-label={`How this ${name} came about`}>
        <TraceLine bench={bench} step={step} field={field} expression={expression} trace={trace} depth={0} onPoint={onPoint} />
      </ol>
    </div>
  );
}

type TraceLineProps = Omit<TraceViewProps, 'name' | 'onBack'> & { readonly depth: number };

function TraceLine({ depth, ...props }: TraceLineProps) {
  const { expression, trace, onPoint } = props;
  const [open, setOpen] = useState(false);
  const text = expression.text.slice(trace.from, trace.to).replace(/\s+/g, ' ');
  const literal = trace.parts.length === 0 && /^['\d]/.test(text);
  if (literal && depth > 0) return null;
  return (
    <li>
      <div
        className={`figures flex items-baseline gap-3 border-b px-2 py-0.5 text-meta ${trace.reached ? '' : 'text-ink-faint'}`}
        onMouseEnter={() => onPoint(trace)}
      >
        <code className="min-w-0 flex-1 truncate font-mono" style={{ paddingLeft: depth * 14 }} title={text}>
          {text}
        </code>
        {trace.frame && trace.reached && (
          <button
            type="button"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
            className="shrink-0 text-ink-soft underline underline-offset-2"
          >
            {frameWords(trace.frame)}
          </button>
        )}
        <span className="max-w-[45%] shrink-0 truncate text-right">
          {trace.reached ? <Value shown={trace.shown} /> : <span>not needed</span>}
        </span>
      </div>
      {open && trace.frame && (
        <FrameRows bench={props.bench} step={props.step} field={props.field} expression={expression} frame={trace.frame} />
      )}
      {trace.parts.length > 0 && (
        <ol>
          {trace.parts.map((part) => (
            <TraceLine key={`${part.from}-${part.to}`} {...props} trace={part} depth={depth + 1} />
          ))}
        </ol>
      )}
    </li>
  );
}

/** The frame's rows are all there are to it. */
const nothingMore = () => undefined;

function frameWords({ from, until, place }: Frame): string {
  if (until < 1) return 'no such row';
  if (from === until) return from === place ? 'this row' : `row ${grouped(from)} of its order`;
  return until >= 1_000_000_000 ? `rows from ${grouped(from)} on` : `from rows ${grouped(from)} to ${grouped(until)}`;
}

type FrameRowsProps = Pick<TraceViewProps, 'bench' | 'step' | 'field' | 'expression'> & { readonly frame: Frame };

/** The rows a value over other rows was made from, as the engine has them. */
function FrameRows({ bench, step, field, expression, frame }: FrameRowsProps) {
  const { result, open, failure } = useFrame(bench, step, field, expression, frame);
  const { view, setView } = useRowsView(`${bench.id}/frame`);
  return (
    <div className="border-b bg-panel px-2 py-1">
      {frame.partition.length > 0 && (
        <p className="text-meta text-ink-soft">Rows that share {frame.partition.map((each) => each ?? 'null').join(', ')}.</p>
      )}
      <FailureNotice failure={failure} />
      {open && !result && <p className="text-meta text-ink-soft">Fetching these rows …</p>}
      {result && (
        <>
          <div className="h-40 border bg-paper">
            <RowsGrid result={result} view={view} onView={setView} onNeedAll={nothingMore} />
          </div>
          {Number(result.rows) >= FRAME_ROWS && <p className="text-meta text-ink-soft">The first {FRAME_ROWS} of them.</p>}
        </>
      )}
    </div>
  );
}
