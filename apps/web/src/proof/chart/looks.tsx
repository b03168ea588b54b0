/** How a series is told from others: by one of six colours that colour-blind readers tell apart, and by a pattern of its own. */
export interface Look {
  readonly colour: string;
  /** Of a line. */
  readonly dash: string | undefined;
  /** Of a bar or an area: the number of its pattern. */
  readonly pattern: number;
  /** Of a point. */
  readonly shape: 'circle' | 'square' | 'diamond' | 'triangle';
}

const COLOURS = 6;
const DASHES = [undefined, '6 3', '2 3', '10 3 2 3', '4 2 1 2', '1 4'];
const PATTERNS = 6;
const SHAPES = ['circle', 'square', 'diamond', 'triangle'] as const;

export function lookOf(series: number): Look {
  const round = Math.floor(series / COLOURS);
  return {
    colour: `var(--lane-${(series % COLOURS) + 1})`,
    dash: DASHES[(series + round) % DASHES.length],
    pattern: (series + round) % PATTERNS,
    shape: SHAPES[series % SHAPES.length] ?? 'circle',
  };
}

/** Patterns over a series' colour, in the colour of the paper. `name` keeps those of several charts apart. */
export function Patterns({ name, count }: { readonly name: string; readonly count: number }) {
  return (
    <defs>
      {Array.from({ length: count }, (_each, series) => {
        const { colour, pattern } = lookOf(series);
        return (
          <pattern key={series} id={`${name}-${series}`} width="8" height="8" patternUnits="userSpaceOnUse">
            <rect width="8" height="8" fill={colour} />
            <path d={STROKES[pattern]} stroke="var(--paper)" strokeWidth="1.5" fill="none" />
          </pattern>
        );
      })}
    </defs>
  );
}

const STROKES = ['', 'M-2 10L10 -2M-6 6L6 -6M2 14L14 2', 'M3 4h2', 'M0 4h8', 'M0 4h8M4 0v8', 'M4 0v8'];

/** A point in the shape of its series. */
export function Point({ x, y, look, size = 3 }: { readonly x: number; readonly y: number; readonly look: Look; readonly size?: number }) {
  const { colour, shape } = look;
  if (shape === 'circle') return <circle cx={x} cy={y} r={size} fill={colour} />;
  if (shape === 'square') return <rect x={x - size} y={y - size} width={size * 2} height={size * 2} fill={colour} />;
  const d =
    shape === 'diamond'
      ? `M${x} ${y - size * 1.3}L${x + size * 1.3} ${y}L${x} ${y + size * 1.3}L${x - size * 1.3} ${y}Z`
      : `M${x} ${y - size * 1.3}L${x + size * 1.2} ${y + size}L${x - size * 1.2} ${y + size}Z`;
  return <path d={d} fill={colour} />;
}

/** A short stretch of what a series looks like, beside its name. */
export function Swatch({ series, drawnAs }: { readonly series: number; readonly drawnAs: 'filled' | 'line' | 'point' }) {
  const look = lookOf(series);
  const name = `swatch-${series}`;
  return (
    <svg width="22" height="12" viewBox="0 0 22 12" aria-hidden className="shrink-0">
      {drawnAs === 'filled' && (
        <>
          <Patterns name={name} count={series + 1} />
          <rect width="22" height="12" fill={`url(#${name}-${series})`} />
        </>
      )}
      {drawnAs !== 'filled' && (
        <>
          {drawnAs === 'line' && <path d="M0 6h22" stroke={look.colour} strokeWidth="2" strokeDasharray={look.dash} />}
          <Point x={11} y={6} look={look} />
        </>
      )}
    </svg>
  );
}
