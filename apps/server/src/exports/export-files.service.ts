import { link, writeFile } from 'node:fs/promises';
import { Inject, Injectable } from '@nestjs/common';
import { grouped, rowsNotes, withFollowed } from '@cendra/core';
import type { About, FileFormat, PaperFormat, WrittenColumn } from '../engine';
import { Engine, ResultStore } from '../engine';
import { LIMITS } from '../limits';
import { LinksService } from '../links';
import { refused } from '../problems';
import { EXPORTS_ENGINE } from '../runs/engines';
import type { Photograph } from './photograph';
import type { HeldDatasetOf } from '../datasets';
import type { Person } from '../people';
import { AboutService } from './about.service';
import { rowsMetadata } from './rows-metadata';
import { sheetColumns } from './written-columns';
import { ProofService } from '../proof/proof.service';
import type { Result, ResultColumn } from '../runs/result.entity';
import { isMarked } from '../runs/results.service';

/** What stands above the lines of a paper. */
export interface PaperWords {
  readonly title: string;
  readonly subtitle: string | undefined;
  readonly note: string | undefined;
  readonly drawn: Photograph | undefined;
}

/** Stored results as files. They are written by a process of their own, so that pages never wait for a spreadsheet. */
@Injectable()
export class ExportFilesService {
  private writing = 0;

  constructor(
    private readonly store: ResultStore,
    private readonly proofs: ProofService,
    private readonly links: LinksService,
    private readonly about: AboutService,
    @Inject(EXPORTS_ENGINE) private readonly engine: Engine,
  ) {}

  /** Files that are being written. How long they are read afterwards is nobody else's matter. */
  get atWork(): number {
    return this.writing;
  }

  /** Writes the whole result beside its rows; the caller removes the file. */
  write(
    person: Person,
    result: Result,
    format: FileFormat,
    columns: readonly WrittenColumn[],
    title: string,
    signal: AbortSignal,
  ): Promise<string> {
    const what = { work: 'write', format, marked: isMarked(result), file: this.store.rows(result.id), columns } as const;
    return this.inTurn(result, format, (out) => this.engine.do({ ...what, about: aboutOf(person, result, title), out }, signal));
  }

  /** Writes what its rows are, beside them; `csv` is what their CSV is called. The caller removes the file. */
  writeMetadata(person: Person, result: Result, columns: readonly WrittenColumn[], title: string, csv: string): Promise<string> {
    return this.inTurn(result, 'json', (out) =>
      writeFile(out, rowsMetadata(csv, result.language, aboutOf(person, result, title), columns)),
    );
  }

  /** Writes the lines of its proof as they are shown; the caller removes the file. */
  async writePaper(
    person: Person,
    result: Result,
    held: HeldDatasetOf,
    format: PaperFormat,
    { title, subtitle, note, drawn }: PaperWords,
    signal: AbortSignal,
  ): Promise<string> {
    const { proof, file, ...read } = await this.proofs.read(person, result, held, signal);
    const { layout, fields } = withFollowed(read.layout, read.fields, await this.links.allowed());
    const { lines, columns, across } = proof;
    const most = LIMITS.paperLines.value;
    if (lines > most)
      throw refused(
        422,
        'paper-long',
        `The proof has ${grouped(lines)} lines, more than the ${grouped(most)} of a paper.`,
        {},
        'only its groups, or the rows as a spreadsheet',
      );
    const notes = [
      ...(note === undefined || note === '' ? [] : [note]),
      ...rowsNotes(result),
      `As of ${momentWords(result.asOf)}, asked by ${person.shownName}.`,
    ];
    return this.inTurn(result, format, async (out) => {
      // Proofs made meanwhile may take the place of this one.
      const own = this.store.making(result.id);
      await link(file, own);
      const written = this.engine.do(
        {
          work: 'paper',
          format,
          marked: isMarked(result),
          file: own,
          lines,
          columns: columns as readonly ResultColumn[],
          layout,
          fields,
          ...(across ? { across } : {}),
          rows: { file: this.store.rows(result.id), columns: sheetColumns(result.columns, fields), whole: result.complete },
          title,
          ...(subtitle === undefined || subtitle === '' ? {} : { subtitle }),
          notes,
          about: format === 'xlsx' ? await this.about.of(person, result, held, signal) : [],
          ...(drawn ? { drawn } : {}),
          language: result.language,
          out,
        },
        signal,
      );
      await written.finally(() => this.store.discard(own));
    });
  }

  /** So many files are written at once. */
  private async inTurn(result: Result, format: string, work: (out: string) => Promise<unknown>): Promise<string> {
    if (this.writing >= LIMITS.filesAtOnce.value)
      throw refused(429, 'too-many-downloads', 'Too many downloads are being prepared.', {}, 'to try again in a moment');
    this.writing++;
    const out = this.store.making(result.id, format);
    try {
      await work(out);
    } catch (error) {
      await this.store.discard(out);
      throw error;
    } finally {
      this.writing--;
    }
    return out;
  }
}

const momentWords = (at: Date) => `${at.toISOString().slice(0, 19).replace('T', ' ')} UTC`;

function aboutOf({ shownName }: Person, { rows, complete, cut, asOf, misfits, columns }: Result, title: string): About {
  const unfit = Object.values(misfits).reduce((sum, each) => sum + each, 0);
  return [
    ['What it is', title],
    ['Rows', complete ? `${rows}, complete` : cut === null ? `the first ${rows}` : `cut off after ${rows}: a limit was reached`],
    ['As of', asOf.toISOString()],
    ['Asked by', shownName],
    ...(columns.some((each) => each.shortened === true)
      ? [['Long texts', `only their first ${LIMITS.headCharacters.value} characters are here`] as const]
      : []),
    ...(unfit > 0 ? [['Values that fit no type', `${unfit}, written as the source has them`] as const] : []),
  ];
}
