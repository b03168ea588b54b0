import { Injectable } from '@nestjs/common';
import type { CatalogueEntry, Definition, ProcedureStep, TableStep } from '@cendra/core';
import { ofKind } from '@cendra/core';
import { ProblemException } from '../problems';
import type { DescribedTable, HeldSources, Source } from '../sources';
import { RoutinesService, SourcesService } from '../sources';
import type { KnownRoutineDto, KnownTableDto } from './dataset.dto';

/** Asks a source something when it is somebody’s turn there. */
export type InTurn = <T>(source: Source, ask: () => Promise<T>) => Promise<T>;

/** For what has a turn of its own. */
const AT_ONCE: InTurn = (_source, ask) => ask();

/** What sources say of the tables a dataset reads, and of the functions it calls. */
@Injectable()
export class KnownTablesService {
  constructor(
    private readonly sources: SourcesService,
    private readonly called: RoutinesService,
  ) {}

  /** A source that does not answer, or is gone, does not keep a dataset from opening. */
  async of(definition: Definition, held: HeldSources['sources'], fresh: boolean, inTurn: InTurn = AT_ONCE): Promise<KnownTableDto[]> {
    const steps = definition.steps.flatMap((step) => ofKind('table', step) ?? []);
    return Promise.all(steps.map((step) => this.table(step, held, fresh, inTurn)));
  }

  async routines(definition: Definition, held: HeldSources['sources'], inTurn: InTurn): Promise<KnownRoutineDto[]> {
    const steps = definition.steps.flatMap((step) => ofKind('procedure', step) ?? []);
    return Promise.all(steps.map((step) => this.routine(step, held, inTurn)));
  }

  private async routine({ source: id, signature }: ProcedureStep, held: HeldSources['sources'], inTurn: InTurn): Promise<KnownRoutineDto> {
    const address = { source: id, signature };
    const source = held.get(id);
    if (!source) return { ...address, state: 'unreachable' };
    try {
      const entry = await inTurn(source, () => this.called.one(source, signature, true));
      return entry ? { ...address, state: 'known', entry } : { ...address, state: 'gone' };
    } catch (error) {
      if (!(error instanceof ProblemException)) throw error;
      return { ...address, state: 'unreachable' };
    }
  }

  private async table(
    { source: id, schema, table }: TableStep,
    held: HeldSources['sources'],
    fresh: boolean,
    inTurn: InTurn,
  ): Promise<KnownTableDto> {
    const address = { source: id, schema, table };
    const source = held.get(id);
    if (!source) return { ...address, state: 'unreachable', ...NOTHING };
    try {
      const described = await inTurn(source, () => this.sources.describe(source, schema, table, fresh));
      return described ? { ...address, state: 'known', ...entryOf(described) } : { ...address, state: 'gone', ...NOTHING };
    } catch (error) {
      if (!(error instanceof ProblemException)) throw error;
      return { ...address, state: 'unreachable', ...NOTHING, problem: error.problems[0] };
    }
  }
}

const NOTHING = { columns: [], keys: [], relations: [] };

/** A described table as core's catalogue has it. */
export const entryOf = ({ columns, keys, relations }: DescribedTable): CatalogueEntry => ({
  columns: columns.map(({ name, sourceType, type, nullable, looseText }) => ({ name, sourceType, type, nullable, looseText })),
  keys,
  relations,
});
