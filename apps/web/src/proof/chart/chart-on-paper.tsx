import { createRoot } from 'react-dom/client';
import { photographOf } from './chart-file';
import ChartFigure from './chart-figure';
import type { ShownChart } from './chart-panel';
import { whenDrawn } from './when-drawn';

/** A chart as a paper holds it. */
export interface ChartOnPaper {
  /** A JPEG, in base64. */
  readonly picture: string;
  /** For who does not see it. */
  readonly says: string;
}

const ROOM = { width: 1_000, height: 300 };

/** The chart drawn once more for paper: light, whatever the page is, and of one size, whatever the window is. */
export async function chartOnPaper({ reading, drawn, says }: ShownChart): Promise<ChartOnPaper | undefined> {
  const box = document.createElement('div');
  box.className = 'on-paper figures';
  box.style.width = `${ROOM.width}px`;
  box.setAttribute('aria-hidden', 'true');
  document.body.append(box);
  const root = createRoot(box);
  try {
    root.render(<ChartFigure chart={reading.chart} drawn={drawn} says={says} {...ROOM} />);
    return (await whenDrawn(box)) ? { picture: await photographOf(box), says } : undefined;
  } finally {
    root.unmount();
    box.remove();
  }
}
