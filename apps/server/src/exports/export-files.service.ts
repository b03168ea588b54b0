import { Inject, Injectable } from '@nestjs/common';
import type { About, FileFormat, WrittenColumn } from '../engine';
import { Engine, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import { refused } from '../problems';
import { EXPORTS_ENGINE } from '../runs/engines';
import type { Result } from '../runs/result.entity';
import { isMarked } from '../runs/results.service';

/** Stored results as files. They are written by a process of their own, so that pages never wait for a spreadsheet. */
@Injectable()
export class ExportFilesService {
  private writing = 0;

  constructor(
    private readonly store: ResultStore,
    @Inject(EXPORTS_ENGINE) private readonly engine: Engine,
  ) {}

  /** Files that are being written. How long they are read afterwards is nobody else's matter. */
  get atWork(): number {
    return this.writing;
  }

  /** Writes the whole result beside its rows, so many at once; the caller removes the file. */
  async write(result: Result, format: FileFormat, columns: readonly WrittenColumn[], title: string, signal: AbortSignal): Promise<string> {
    if (this.writing >= LIMITS.filesAtOnce.value)
      throw refused(429, 'too-many-downloads', 'Too many downloads are being prepared.', {}, 'to try again in a moment');
    this.writing++;
    const out = this.store.making(result.id, format);
    try {
      await this.engine.do(
        { work: 'write', format, marked: isMarked(result), file: this.store.rows(result.id), columns, about: aboutOf(result, title), out },
        signal,
      );
    } catch (error) {
      await this.store.discard(out);
      throw error;
    } finally {
      this.writing--;
    }
    return out;
  }
}

function aboutOf({ rows, complete, cut, asOf, misfits, columns }: Result, title: string): About {
  const unfit = Object.values(misfits).reduce((sum, each) => sum + each, 0);
  return [
    ['What it is', title],
    ['Rows', complete ? `${rows}, complete` : cut === null ? `the first ${rows}` : `cut off after ${rows}: a limit was reached`],
    ['As of', asOf.toISOString()],
    ...(columns.some((each) => each.shortened === true)
      ? [['Long texts', `only their first ${LIMITS.headCharacters.value} characters are here`] as const]
      : []),
    ...(unfit > 0 ? [['Values that fit no type', `${unfit}, written as the source has them`] as const] : []),
  ];
}
