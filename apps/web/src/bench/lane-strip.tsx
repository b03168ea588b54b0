import type { LaneLine } from '@cendra/core';
import { laneColour } from '../sources/source-mark';

/** How sources are drawn: in which lane colour, and with which two letters. */
export interface LaneSource {
  readonly id: string;
  readonly mark: string;
}

interface LaneStripProps {
  readonly line: LaneLine;
  /** In their order, which decides their colours. */
  readonly sources: readonly LaneSource[];
  /** How many lanes there are side by side at most. */
  readonly lanes: number;
  readonly off: boolean;
}

const FIRST = 16;
const APART = 14;
const NODE = 16;
const BELOW_MARK = 30;
/** Lanes stand closer together where they would take the room of the words beside them. */
const WIDEST = 98;
const apart = (lanes: number) => Math.min(APART, WIDEST / Math.max(1, lanes - 1));

/** The left edge of a trail line: lanes that run past, that meet here, and the step's own with its source's letters where it begins. */
export function LaneStrip({ line, sources, lanes, off }: LaneStripProps) {
  const colourOf = (source: string | undefined) =>
    laneColour(
      Math.max(
        0,
        sources.findIndex((each) => each.id === source),
      ),
    );
  const [begins] = line.begins;
  const mark = begins === undefined ? undefined : (sources.find((each) => each.id === begins)?.mark ?? '?');
  const x = (lane: number) => FIRST + lane * apart(lanes);
  const own = x(line.lane);
  return (
    <div className={`relative shrink-0 ${colourOf(line.source)}`} style={{ width: x(lanes - 1) + 20 }}>
      <svg className="absolute inset-0 h-full w-full" aria-hidden>
        {line.passes.map(({ lane, source }) => (
          <Down key={lane} at={x(lane)} from="0" to="100%" colour={colourOf(source)} off={false} />
        ))}
        {line.joins.map(({ lane, source, goesOn }) => (
          <g key={lane} className={colourOf(source)}>
            <path d={`M ${x(lane)} 0 V 6 Q ${x(lane)} ${NODE} ${own} ${NODE}`} fill="none" stroke="currentColor" strokeWidth="2" />
            {goesOn && <Down at={x(lane)} from="0" to="100%" colour="" off={false} />}
          </g>
        ))}
        {(line.comesDown || line.goesOn) && (
          <Down
            at={own}
            from={line.comesDown ? '0' : String(mark === undefined ? NODE : BELOW_MARK)}
            to={line.goesOn ? '100%' : String(NODE)}
            colour=""
            off={off}
          />
        )}
      </svg>
      {mark === undefined ? (
        <span className="absolute top-3 size-2 bg-current" style={{ left: own - 4 }} aria-hidden />
      ) : (
        <span
          className="absolute top-2 inline-flex h-5 w-6 items-center justify-center border border-current bg-panel font-mono text-meta font-medium"
          style={{ left: own - 12 }}
        >
          <span className="sr-only">from source </span>
          {mark}
        </span>
      )}
      {line.joins.length > 0 && <span className="sr-only">where lanes meet</span>}
    </div>
  );
}

interface DownProps {
  readonly at: number;
  readonly from: string;
  readonly to: string;
  readonly colour: string;
  readonly off: boolean;
}

function Down({ at, from, to, colour, off }: DownProps) {
  return (
    <line
      x1={at}
      x2={at}
      y1={from}
      y2={to}
      className={colour}
      stroke="currentColor"
      strokeWidth="2"
      strokeDasharray={off ? '3 3' : undefined}
    />
  );
}
