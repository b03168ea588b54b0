const LANES = ['text-lane-1', 'text-lane-2', 'text-lane-3', 'text-lane-4', 'text-lane-5', 'text-lane-6'];

export const laneColour = (lane: number) => LANES[lane % LANES.length] ?? 'text-lane-1';

/** A source's two letters in its lane's colour. */
export function SourceMark({ mark, lane }: { readonly mark: string; readonly lane: number }) {
  return (
    <span
      className={`inline-flex h-5 w-7 shrink-0 items-center justify-center border border-current font-mono text-meta font-medium ${laneColour(lane)}`}
    >
      {mark}
    </span>
  );
}
