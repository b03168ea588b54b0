import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { Repository } from 'typeorm';
import type { Problem, TextStep } from '@cendra/core';
import { asTextStep, isScript, metByName, problem } from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import type { Person } from '../people';
import type { RoutineToMake } from '../planning';
import { Planner } from '../planning';
import { ProblemException, refused } from '../problems';
import { givenOf, PreparingService } from '../runs/preparing.service';
import type { RowsDigest, Source } from '../sources';
import { RoutinesService, SourcesService, TextsService } from '../sources';
import { KeepingService } from './keeping.service';
import { KeptRoutine } from './kept-routine.entity';
import type { ComparedDto, KeepRoutineDto, RoutineKeptDto, RoutineMadeDto, RoutinePreviewDto, RoutineToKeepDto } from './kept-routine.dto';

/** What a text is as a function, with everything needed to make and compare it. */
interface Made extends RoutineToMake {
  readonly source: Source;
  readonly step: TextStep;
  readonly signature: string;
  readonly existing: string | null;
}

/** Keeps texts and scripts as functions of their source, and compares the two. */
@Injectable()
export class KeptRoutinesService {
  constructor(
    @InjectRepository(KeptRoutine) private readonly made: Repository<KeptRoutine>,
    private readonly keeping: KeepingService,
    private readonly preparing: PreparingService,
    private readonly planner: Planner,
    private readonly sources: SourcesService,
    private readonly texts: TextsService,
    private readonly routines: RoutinesService,
  ) {}

  /** The statement that would make it, and what it would take the place of. */
  async preview(person: Person, held: HeldDatasetOf, asked: RoutineToKeepDto, signal: AbortSignal): Promise<RoutinePreviewDto> {
    const made = await this.makable(person, held, asked, [], signal);
    if (!('statement' in made)) return { statement: '', signature: '', existing: null, problems: made.problems };
    return { statement: made.statement, signature: made.signature, existing: made.existing, problems: [] };
  }

  /** Makes the function that was shown, then runs both for each of some values and tells whether they give the same rows. */
  async keep(person: Person, held: HeldDatasetOf, asked: KeepRoutineDto, signal: AbortSignal): Promise<RoutineKeptDto> {
    const made = await this.makable(person, held, asked, asked.values, signal);
    if (!('statement' in made)) throw new ProblemException(422, made.problems);
    const { source, statement, existing } = made;
    if (statement !== asked.statement)
      throw refused(409, 'routine-other', 'The function would be another one than was shown.', {}, 'a look at the statement it is now');
    const keeper = await this.keeping.keeper(person, source);
    await this.sources.keepRoutine(source, keeper, existing === null ? undefined : made.signature, statement);
    const now = await this.routines.find(source, keeper.schema, asked.name, made.types);
    const signature = now?.signature ?? made.signature;
    const { dataset } = held;
    await this.made.insert({
      sourceId: source.id,
      signature,
      statement,
      replaced: existing,
      datasetId: dataset.id,
      madeBy: person.shownName,
      madeAt: new Date(),
    });
    if (!now) return { signature, compared: [], problems: [unseen(signature)] };
    try {
      return { signature, compared: await this.compare({ ...made, signature }, signal), problems: [] };
    } catch (error) {
      if (!(error instanceof ProblemException)) throw error;
      return { signature, compared: [], problems: error.problems };
    }
  }

  /** What was made under a signature, the newest first. */
  async history(source: Source, signature: string): Promise<readonly RoutineMadeDto[]> {
    const found = await this.made.find({ where: { sourceId: source.id, signature }, order: { madeAt: 'DESC' }, take: 100 });
    return found.map(({ statement, replaced, datasetId, madeBy, madeAt }) => ({
      statement,
      replaced,
      dataset: datasetId,
      madeBy,
      madeAt: madeAt.toISOString(),
    }));
  }

  /** Everything is looked at as it is before anything is made: the right, the text, its fields, and what has the name now. */
  private async makable(
    person: Person,
    held: HeldDatasetOf,
    { step: id, name }: RoutineToKeepDto,
    values: KeepRoutineDto['values'],
    signal: AbortSignal,
  ): Promise<Made | { readonly problems: readonly Problem[] }> {
    const found = held.definition.steps.find((each) => each.id === id);
    const step = asTextStep(found);
    if (!step) throw refused(404, 'step-gone', 'This text is not in the dataset.', { step: id });
    const source = held.sources.get(step.source);
    if (!source) throw refused(422, 'source-gone', 'The source of this text was removed.', { step: id });
    const { schema } = await this.keeping.keeper(person, source);
    const described = await this.texts.acts(source, step.sql.text, isScript(step), held.definition.parameters);
    if (described.problems.length > 0) return { problems: described.problems };
    const same =
      described.columns.length === step.fields.length &&
      described.columns.every(
        ({ column, sourceType }, at) => column === step.fields[at]?.column && sourceType === step.fields[at].sourceType,
      );
    if (!same)
      return {
        problems: [
          problem(
            'text-columns-changed',
            'This text gives other columns now than when it was described.',
            { step: id },
            'its fields taken over as they are now',
          ),
        ],
      };
    const prepared = await this.preparing.prepare(person, held, values[0] ?? {}, signal);
    // Types stand in the statement that is made: as the source says them now, and not as the definition has them.
    const met = metByName(described.met);
    const wanted = { step: id, schema, name, values, met, ...(described.acts ? { acts: described.acts } : {}) };
    const made = await this.planner.do('routine', { ...givenOf(prepared), ...wanted }, signal);
    if (!('statement' in made)) return made;
    const known = await this.routines.find(source, schema, name, made.types);
    const existing = known ? (await this.routines.text(source, known.signature)).text : null;
    const signature = known?.signature ?? `${schema}.${name}(${made.types.join(', ')})`;
    return { ...made, source, step, existing, signature };
  }

  private async compare({ source, runs, signature }: Made, signal: AbortSignal): Promise<readonly ComparedDto[]> {
    // It has just been looked at, whatever the source's steward let run.
    const session = await this.sources.openScript({ ...source, admitted: [...source.admitted, signature] }, signal);
    const stop = () => void session.cancel();
    signal.addEventListener('abort', stop, { once: true });
    try {
      const compared: ComparedDto[] = [];
      for (const { text, call } of runs) {
        const last = text.at(-1);
        if (!last) continue;
        for (const each of text.slice(0, -1)) await session.run(each);
        const own = await session.digest(last);
        await session.backTo(0);
        const kept = await session.digest({ ...call, call: { ...call.call, signature } });
        await session.backTo(0);
        compared.push({ rowsOfText: own.rows, rowsOfRoutine: kept.rows, same: sameRows(own, kept) });
      }
      return compared;
    } finally {
      signal.removeEventListener('abort', stop);
      await session.close();
    }
  }
}

const unseen = (signature: string): Problem =>
  problem(
    'routine-not-seen',
    `${signature} is made, but the user that reads here may not call it.`,
    {},
    'the right to use its schema and to execute it',
  );

const sameRows = (a: RowsDigest, b: RowsDigest) => a.rows === b.rows && a.sum === b.sum;
