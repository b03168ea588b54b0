import { rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Landed, RowsFile } from '../engine';
import { partName } from '../engine';
import type { Segment, SegmentSink } from '../sources';

/** The part with the first rows, once it has landed; more may come behind it. */
export interface FirstPart extends Landed {
  readonly file: string;
  readonly rows: number;
}

/**
 * Turns segments into the parts of a result while the next ones arrive. The folder of parts means nothing before the
 * source has said that the command was complete; who lands it keeps it only then.
 */
export class Landing implements SegmentSink {
  private segments = 0;
  private readonly told = { bytes: 0, marked: false, misfits: {} as Record<string, number>, measured: {} as Record<string, number> };

  constructor(
    private readonly parts: string,
    private readonly land: (from: RowsFile, rows: number, out: string) => Promise<Landed>,
    private readonly filler: boolean,
    private readonly folder: string,
    private readonly onFirst?: (part: FirstPart) => Promise<void>,
  ) {}

  /** What the parts come to together. */
  get sums(): Landed {
    return this.told;
  }

  next(): string {
    return join(this.folder, `${this.parts.split('/').at(-1) ?? ''} segment ${++this.segments}.csv`);
  }

  async take({ file, first, rows, longestRow }: Segment): Promise<void> {
    const out = join(this.parts, partName(first, false));
    const landed = await this.land({ format: 'csv', file, filler: this.filler, longestRow }, rows, out);
    const part = landed.marked ? join(this.parts, partName(first, true)) : out;
    if (landed.marked) await rename(out, part);
    await rm(file, { force: true });
    if (first === 0) await this.onFirst?.({ ...landed, file: part, rows });
    const { told } = this;
    told.bytes += landed.bytes;
    told.marked ||= landed.marked;
    for (const [id, count] of Object.entries(landed.misfits)) told.misfits[id] = (told.misfits[id] ?? 0) + count;
    for (const [id, scale] of Object.entries(landed.measured)) told.measured[id] = Math.max(told.measured[id] ?? 0, scale);
  }
}
