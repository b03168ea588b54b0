import { Injectable } from '@nestjs/common';
import { callToDescribe, problem } from '@cendra/core';
import { notFound, ProblemException } from '../problems';
import type { CatalogueRoutine } from './connectors/connector';
import type { DescribedRoutineDto, RoutineDto } from './routine.dto';
import type { Source } from './source.entity';
import { SourcesService } from './sources.service';

/** What sources say of their functions and procedures. */
@Injectable()
export class RoutinesService {
  constructor(private readonly sources: SourcesService) {}

  /** Those in whose name, comment or arguments every sought word stands. */
  async list(source: Source, search = ''): Promise<readonly RoutineDto[]> {
    const words = search.toLowerCase().split(/\s+/);
    const all = await this.sources.routines(source, search === '');
    return all
      .filter(({ signature, comment, arguments: taken }) => {
        const told = [signature, comment, ...taken.map((each) => each.name)].join(' ').toLowerCase();
        return words.every((each) => told.includes(each));
      })
      .map((each) => shown(source, each));
  }

  async one(source: Source, signature: string, fresh = false): Promise<RoutineDto | undefined> {
    const found = (await this.sources.routines(source, fresh)).find((each) => each.signature === signature);
    return found && shown(source, found);
  }

  async text(source: Source, signature: string): Promise<{ readonly text: string }> {
    const found = await this.sources.routineText(source, signature);
    if (!found) throw notFound('function');
    return found;
  }

  /** What its rows are; it is not called for that. Why it cannot be called is an answer as well. */
  async describe(source: Source, signature: string, columns: string | undefined): Promise<DescribedRoutineDto> {
    const routine = await this.one(source, signature, true);
    if (!routine) throw notFound('function');
    const refused = refusalOf(routine, columns);
    if (refused) return { routine, columns: [], problems: [refused] };
    const { text, types } = callToDescribe(routine as never, columns);
    try {
      const described = await this.sources.describeText(source, text, types);
      return { routine, columns: described.columns, problems: [] };
    } catch (error) {
      if (!(error instanceof ProblemException) || error.getStatus() !== 422) throw error;
      // Places are those of the call, which nobody wrote.
      const { detail } = error;
      const problems = error.problems.map(({ place: _place, ...each }) => ({
        ...each,
        place: {},
        ...(detail === undefined ? {} : { detail }),
      }));
      return { routine, columns: [], problems };
    }
  }
}

const shown = ({ admitted }: Pick<Source, 'admitted'>, routine: CatalogueRoutine): RoutineDto => ({
  ...routine,
  admitted: admitted.includes(routine.signature),
});

/** Why a routine is not called, before its source is asked. */
function refusalOf({ name, kind, cursors, columnsUnsaid, mayWrite, withOwnersRights, admitted }: RoutineDto, columns: string | undefined) {
  if (kind === 'procedure')
    return problem(
      'routine-a-procedure',
      `${name} is a procedure, which is called and gives no rows of its own.`,
      {},
      'a function that gives rows',
    );
  if (cursors) return problem('routine-cursors', `${name} gives cursors, which cannot be read here.`, {}, 'a function that gives rows');
  if (columnsUnsaid && columns === undefined)
    return problem(
      'routine-columns-unsaid',
      `${name} gives rows without saying which columns they have.`,
      {},
      'names and types, as “code text, kilos numeric”',
    );
  if (admitted || (!mayWrite && !withOwnersRights)) return undefined;
  const because = mayWrite ? 'it is declared volatile, which is also what nobody declares' : 'it runs with its owner’s rights';
  return problem(
    'routine-not-admitted',
    `${name} may do more than compute: ${because}.`,
    {},
    'a steward who lets it run, in Procedures of its source',
  );
}
