import type { ShownChart } from './chart/chart-panel';
import type { AskedFile } from './fetch-file';

/** What a paper is of, and what stands above its lines. */
export interface PaperOf {
  readonly result: string;
  readonly dataset: string;
  readonly revision: number;
  readonly name: string;
  readonly title: string;
  /** What stands below the title, where something does. */
  readonly subtitle: string | undefined;
  readonly note: string | undefined;
  /** What is drawn above the lines. */
  readonly chart: ShownChart | undefined;
}

/** These hold the chart. */
const WITH_CHART: readonly string[] = ['pdf', 'html'];

/** Where the lines are asked for as a paper; a chart is drawn for it first. */
export async function askedPaper({ result, title, subtitle, note, chart, ...of }: PaperOf, format: string): Promise<AskedFile> {
  const drawn = chart && WITH_CHART.includes(format) ? await (await import('./chart/chart-on-paper')).chartOnPaper(chart) : undefined;
  return {
    address: `/api/results/${result}/paper`,
    body: {
      ...of,
      format,
      title: title.slice(0, 1_000),
      ...(subtitle === undefined ? {} : { subtitle }),
      ...(note === undefined ? {} : { note }),
      ...(drawn ? { chart: drawn } : {}),
    },
  };
}
