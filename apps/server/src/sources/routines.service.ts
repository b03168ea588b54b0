import { Injectable } from '@nestjs/common';
import type { CallResult, Problem, RoutineEntry, ScriptStatement, SessionCall, TriedArgument } from '@cendra/core';
import { callToDescribe, compileScript, problem, resultsOf, resultWords, saysColumns, triedCall } from '@cendra/core';
import { notFound, ProblemException } from '../problems';
import type { CalledResult, CatalogueRoutine } from './connectors/connector';
import type { CalledOnceDto, DescribedRoutineDto, GivenDto, RoutineDto, RoutineResultDto, RoutineTriedDto } from './routine.dto';
import type { TextColumnDto } from './text.dto';
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

  /** The one of a name that takes these types, as the source is now. */
  async find(source: Source, schema: string, name: string, types: readonly string[]): Promise<RoutineDto | undefined> {
    const all = await this.sources.routines(source, true);
    const found = all.find(
      (each) => each.schema === schema && each.name === name && each.arguments.map((own) => own.sourceType).join() === types.join(),
    );
    return found && shown(source, found);
  }

  async text(source: Source, signature: string): Promise<{ readonly text: string }> {
    const found = await this.sources.routineText(source, signature);
    if (!found) throw notFound('function');
    return found;
  }

  /**
   * What the rows of one of its results are. It is not called for that, but for those of a cursor, with what is given. Why
   * it cannot be called is an answer as well.
   */
  async describe(
    source: Source,
    { signature, columns, result, given }: RoutineResultDto,
    signal?: AbortSignal,
  ): Promise<DescribedRoutineDto> {
    const routine = await this.one(source, signature, true);
    if (!routine) throw notFound('function');
    const wanted = (result ?? resultsOf(routine as RoutineEntry)[0] ?? { of: 'rows' }) as CallResult;
    const refused = refusalOf(routine, columns) ?? unsuited(routine, wanted);
    if (refused) return { routine, columns: [], problems: [refused] };
    const none = (problems: readonly Problem[]) => ({ routine, columns: [], problems });
    if (wanted.of === 'values') return { routine, columns: valueColumns(routine), problems: [] };
    if (wanted.of === 'cursor') {
      if (!given) return none([ranFirst(routine)]);
      const { results, problems } = await this.tryOut(source, { signature, given, ...(columns === undefined ? {} : { columns }) }, signal);
      const found = results.find((each) => each.result.of === 'cursor' && each.result.number === wanted.number);
      if (problems.length > 0 || !found) return none(problems.length > 0 ? problems : [noSuchCursor(routine, wanted)]);
      return { routine, columns: found.columns, problems: [] };
    }
    const { text, types } = callToDescribe(routine as RoutineEntry, columns);
    try {
      const described = await this.sources.describeText(source, text, types);
      return { routine, columns: described.columns, problems: [] };
    } catch (error) {
      return none(saidOf(error));
    }
  }

  /** Calls a routine once with typed values, and takes everything back. What goes wrong in it is an answer as well. */
  async tryOut(source: Source, { signature, columns, given }: RoutineTriedDto, signal?: AbortSignal): Promise<CalledOnceDto> {
    const routine = await this.one(source, signature, true);
    if (!routine) throw notFound('function');
    const none = (problems: readonly Problem[]): CalledOnceDto => ({ results: [], messages: [], ms: null, problems });
    const refused = refusalOf(routine, columns);
    if (refused) return none([refused]);
    const call = triedCall(routine as RoutineEntry, columns, given.map(givenOf));
    if (call.problems.length > 0 || !('part' in call)) return none(call.problems);
    const [statement] = compileScript('', [call.part], this.sources.dialectOf(source), { bound: new Map(), now: 0n });
    if (!isCall(statement)) throw new RangeError('a call is one statement');
    const session = await this.sources.openScript(source, signal);
    const stop = () => void session.cancel();
    signal?.addEventListener('abort', stop, { once: true });
    try {
      const { results, ...ran } = await session.call(statement);
      return { ...ran, results: named(results, routine), problems: [] };
    } catch (error) {
      return none(saidOf(error));
    } finally {
      signal?.removeEventListener('abort', stop);
      await session.close();
    }
  }
}

const isCall = (statement: ScriptStatement | undefined): statement is ScriptStatement & { readonly call: SessionCall } =>
  statement?.call !== undefined;

const givenOf = ({ by, value = '' }: GivenDto): TriedArgument => (by === 'value' ? { by, value } : { by });

/** What a source finds wrong with a call; its places are those of a text nobody wrote. Whatever else went wrong is thrown. */
function saidOf(error: unknown): readonly Problem[] {
  if (!(error instanceof ProblemException) || ![422, 504, 507].includes(error.getStatus())) throw error;
  const { detail } = error;
  return error.problems.map(({ place: _place, ...each }) => ({ ...each, place: {}, ...(detail === undefined ? {} : { detail }) }));
}

/** Cursors under the names of the arguments that give them. */
const named = (results: readonly CalledResult[], routine: RoutineDto): readonly CalledResult[] => {
  const names = routine.outs.filter((each) => each.cursor).map((each) => each.name);
  return results.map((each) =>
    each.result.of === 'cursor' ? { ...each, result: { ...each.result, name: names[each.result.number - 1] ?? '' } } : each,
  );
};

/** The values it gives back, as the catalogue has them. */
const valueColumns = ({ outs }: RoutineDto): readonly TextColumnDto[] =>
  outs.flatMap(({ name, sourceType, type, cursor }, at) =>
    cursor
      ? []
      : {
          column: name || `column${at + 1}`,
          named: name !== '',
          sourceType,
          type,
          looseText: false,
        },
  );

function unsuited(routine: RoutineDto, wanted: CallResult): Problem | undefined {
  const known = resultsOf(routine as RoutineEntry);
  const cursors = routine.cursors && !routine.outs.some((each) => each.cursor);
  const fits = known.some(
    (each) => each.of === wanted.of && (each.of !== 'cursor' || cursors || each.number === (wanted as { number?: number }).number),
  );
  if (fits) return undefined;
  if (known.length === 0)
    return problem(
      'routine-without-result',
      `${routine.name} gives nothing back that could be read.`,
      {},
      'a routine with rows, values or cursors',
    );
  return problem('routine-result-unknown', `${routine.name} gives no such result.`, {}, known.map(resultWords).join(', or '));
}

const ranFirst = ({ name }: RoutineDto): Problem =>
  problem('routine-cursors', `Which fields the cursors of ${name} have is known once it ran.`, {}, 'it tried once, with what it takes');

const noSuchCursor = ({ name }: RoutineDto, wanted: CallResult): Problem =>
  problem(
    'cursor-not-open',
    `${name} gave no cursor ${resultWords(wanted).replace('the rows of its cursor ', '')} this time.`,
    {},
    'one it gives',
  );

const shown = ({ admitted }: Pick<Source, 'admitted'>, routine: CatalogueRoutine): RoutineDto => ({
  ...routine,
  admitted: admitted.includes(routine.signature),
});

/** Why a routine is not called, before its source is asked. */
function refusalOf({ name, kind, columnsUnsaid, mayWrite, withOwnersRights, admitted }: RoutineDto, columns: string | undefined) {
  if (columnsUnsaid && columns === undefined)
    return problem(
      'routine-columns-unsaid',
      `${name} gives rows without saying which columns they have.`,
      {},
      'names and types, as “code text, kilos numeric”',
    );
  if (columns !== undefined && !saysColumns(columns))
    return problem(
      'routine-columns-unread',
      `“${columns}” does not say which columns ${name} gives.`,
      {},
      'names and types, as “code text, kilos numeric”',
    );
  if (admitted || (!mayWrite && !withOwnersRights)) return undefined;
  const because =
    kind === 'procedure'
      ? 'it is a procedure'
      : mayWrite
        ? 'it is declared volatile, which is also what nobody declares'
        : 'it runs with its owner’s rights';
  return problem(
    'routine-not-admitted',
    `${name} may do more than compute: ${because}.`,
    {},
    'a steward who lets it run, in Procedures of its source',
  );
}
