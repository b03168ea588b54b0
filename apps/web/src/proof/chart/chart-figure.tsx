import type { ReactNode } from 'react';
import type { Chart } from '@cendra/core';
import { beginsAtZero } from '@cendra/core';
import ChartDrawing from './chart-drawing';
import type { Drawn } from './drawn';
import { scaleOf } from './drawn';
import { Swatch } from './looks';

interface ChartFigureProps {
  readonly chart: Chart;
  readonly drawn: Drawn;
  /** What it says of what, in words. */
  readonly says: string;
  /** Room for it, in pixels. */
  readonly width: number;
  readonly height: number;
  /** What can be done with it, behind what it says. */
  readonly children?: ReactNode;
}

/** Small charts stand beside one another in so many pixels each. */
const SMALL_WIDTH = 260;

/** A chart with the names of its series, what it leaves out, and its figures as a table for those who do not see it. */
export default function ChartFigure({ chart, drawn, says, width, height, children }: ChartFigureProps) {
  const { charts, notes } = drawn;
  const scale = scaleOf(charts, chart.as === 'bars stacked', beginsAtZero(chart));
  const series = charts[0]?.series ?? [];
  const isSmall = charts.length > 1 || charts[0]?.title !== undefined;
  const own = isSmall ? Math.min(width, SMALL_WIDTH) : width;
  const from = !beginsAtZero(chart) && scale.from > 0 ? ['The scale does not begin at zero.'] : [];
  const drawnAs = chart.as === 'points' ? 'point' : chart.as === 'lines' ? 'line' : 'filled';
  return (
    <figure aria-label={says}>
      <div className={isSmall ? 'flex flex-wrap gap-3' : ''} aria-hidden>
        {charts.map((each, at) => (
          <div key={at}>
            {each.title !== undefined && (
              <p className="truncate text-meta font-medium" style={{ width: own }}>
                {each.title}
              </p>
            )}
            <ChartDrawing as={chart.as} chart={each} scale={scale} width={own} height={isSmall ? Math.min(height, 150) : height} />
          </div>
        ))}
      </div>
      <figcaption className="text-meta text-ink-soft">
        <div className="flex items-center gap-2">
          <p className="truncate">{says}</p>
          {children}
        </div>
        {series.length > 1 && (
          <ul aria-label="Series" className="flex flex-wrap gap-x-4 gap-y-0.5 text-ink">
            {series.map(({ name }, index) => (
              <li key={index} className="flex items-center gap-1.5">
                <Swatch series={index} drawnAs={drawnAs} />
                {name}
              </li>
            ))}
          </ul>
        )}
        {[...from, ...notes].map((note) => (
          <p key={note}>{note}</p>
        ))}
      </figcaption>
      <FiguresTable drawn={drawn} says={says} />
    </figure>
  );
}

function FiguresTable({ drawn, says }: { readonly drawn: Drawn; readonly says: string }) {
  return (
    <div className="sr-only">
      {drawn.charts.map(({ title, groups, series }, at) => (
        <table key={at} aria-label={`Figures of the chart${title === undefined ? '' : `, ${title}`}`}>
          <caption>{says}</caption>
          <thead>
            <tr>
              <th scope="col">group</th>
              {series.map(({ name }, index) => (
                <th key={index} scope="col">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {groups.map((group, row) => (
              <tr key={row}>
                <th scope="row">{group}</th>
                {series.map(({ figures }, index) => (
                  <td key={index}>{figures[row]?.number === null ? 'no figure' : figures[row]?.text}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </div>
  );
}
