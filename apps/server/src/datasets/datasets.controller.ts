import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Post, Query, Req } from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import type { Request } from 'express';
import { withoutValues } from '@cendra/core';
import { AuditService } from '../audit/audit.service';
import { goneOf } from '../gone';
import { Access, Held, Needs, NeedsNoSource, Person, SignedInPerson } from '../people';
import { DatasetDto, DatasetLineDto, EditedDto, EditsDto, KnownRoutineDto, KnownTableDto, NewDatasetDto, RevisionDto } from './dataset.dto';
import { DatasetLifeService } from './dataset-life.service';
import { DatasetListService } from './dataset-list.service';
import { EditingService } from './editing.service';
import type { HeldDatasetOf } from './held-dataset';
import { DatasetRights, HeldDataset, HeldEvenDeleted, HeldForGood } from './held-dataset';
import type { InTurn } from './known-tables.service';
import { KnownTablesService } from './known-tables.service';
import type { StoredDataset } from './revisions.service';
import { RevisionsService } from './revisions.service';
import { MayBeLeftOut, WholeNumber } from '../problems';
import { SourcesService } from '../sources';

class RevisionQueryDto {
  @ApiProperty({ required: false }) @MayBeLeftOut() @Type(() => Number) @WholeNumber(1) revision?: number;
}

class HistoryQueryDto {
  @ApiProperty({ required: false }) @MayBeLeftOut() @Type(() => Number) @WholeNumber(1) before?: number;
}

@ApiTags('datasets')
@Controller('datasets')
@Access('analyst', 'steward')
export class DatasetsController {
  constructor(
    private readonly revisions: RevisionsService,
    private readonly rights: DatasetRights,
    private readonly lists: DatasetListService,
    private readonly life: DatasetLifeService,
    private readonly editing: EditingService,
    private readonly known: KnownTablesService,
    private readonly sources: SourcesService,
    private readonly audit: AuditService,
  ) {}

  @Get()
  @NeedsNoSource()
  @ApiOkResponse({ type: [DatasetLineDto] })
  async list(): Promise<DatasetLineDto[]> {
    return (await this.lists.list()).map(lineOf);
  }

  /** Those that were deleted and can still be taken back. */
  @Get('deleted')
  @NeedsNoSource()
  @ApiOkResponse({ type: [DatasetLineDto] })
  async deleted(): Promise<DatasetLineDto[]> {
    return (await this.lists.list(true)).map(lineOf);
  }

  /** The source is asked for by the body, and found for the person where the dataset begins. */
  @Post()
  @NeedsNoSource()
  @ApiCreatedResponse({ type: DatasetDto })
  async create(@SignedInPerson() person: Person, @Body() body: NewDatasetDto, @Req() request: Request): Promise<DatasetDto> {
    const dataset = await this.life.create(person, body, this.turnOf(person, request));
    await this.audit.note(person, 'began dataset', dataset.title);
    return this.shown(person, await this.revisions.open(dataset.id));
  }

  @Post(':id/copies')
  @Needs(HeldDataset)
  @ApiCreatedResponse({ type: DatasetDto })
  async duplicate(@SignedInPerson() person: Person, @Held(HeldDataset) held: HeldDatasetOf): Promise<DatasetDto> {
    const copy = await this.life.duplicate(person, held);
    await this.audit.note(person, 'copied dataset', copy.title);
    return this.shown(person, await this.revisions.open(copy.id));
  }

  @Delete(':id')
  @HttpCode(204)
  @Needs(HeldForGood)
  async delete(@SignedInPerson() person: Person, @Held(HeldForGood) held: HeldDatasetOf): Promise<void> {
    const { title } = await this.life.delete(held);
    await this.audit.note(person, 'deleted dataset', title);
  }

  @Post(':id/taking-back')
  @HttpCode(200)
  @Needs(HeldEvenDeleted)
  @ApiOkResponse({ type: DatasetDto })
  async takeBack(@SignedInPerson() person: Person, @Held(HeldEvenDeleted) held: HeldDatasetOf): Promise<DatasetDto> {
    const { id, title } = await this.life.takeBack(held);
    await this.audit.note(person, 'took back dataset', title);
    return this.shown(person, await this.revisions.open(id));
  }

  /** Who lacks a source sees the shape, without what was typed into it. */
  @Get(':id')
  @NeedsNoSource()
  @ApiOkResponse({ type: DatasetDto })
  async one(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Query() query: RevisionQueryDto,
  ): Promise<DatasetDto> {
    return this.shown(person, await this.revisions.open(id, query.revision));
  }

  /** The definition is given only where it is not the base with just these edits applied, which the sender has. */
  @Post(':id/edits')
  @Needs(HeldDataset)
  @ApiCreatedResponse({ type: EditedDto })
  async edit(@SignedInPerson() person: Person, @Held(HeldDataset) held: HeldDatasetOf, @Body() body: EditsDto): Promise<EditedDto> {
    const { dataset, revision, definition, savedAt } = await this.editing.edit(person, held, body);
    const asSent = revision === body.baseRevision + 1;
    return { id: dataset.id, revision, savedAt: savedAt.toISOString(), definition: asSent ? null : definition };
  }

  /** The sentences of a history hold typed values, so they need the sources as rows do: those of then and of now. */
  @Get(':id/revisions')
  @Needs(HeldDataset)
  @ApiOkResponse({ type: [RevisionDto] })
  history(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Query() query: HistoryQueryDto,
  ): Promise<RevisionDto[]> {
    return this.lists.history(person, id, query.before);
  }

  /** The tables it reads as the sources describe them now. */
  @Get(':id/tables')
  @Needs(HeldDataset)
  @ApiOkResponse({ type: [KnownTableDto] })
  tables(
    @SignedInPerson() person: Person,
    @Held(HeldDataset) { definition, sources }: HeldDatasetOf,
    @Req() request: Request,
  ): Promise<KnownTableDto[]> {
    return this.known.of(definition, sources, true, this.turnOf(person, request));
  }

  /** The functions it calls as the sources have them now. */
  @Get(':id/routines')
  @Needs(HeldDataset)
  @ApiOkResponse({ type: [KnownRoutineDto] })
  routines(
    @SignedInPerson() person: Person,
    @Held(HeldDataset) { definition, sources }: HeldDatasetOf,
    @Req() request: Request,
  ): Promise<KnownRoutineDto[]> {
    return this.known.routines(definition, sources, this.turnOf(person, request));
  }

  private turnOf(person: Person, request: Request): InTurn {
    const gone = goneOf(request);
    return (source, ask) => this.sources.inTurn(person, source, gone, ask);
  }

  private async shown(person: Person, { dataset, revision, read, savedAt }: StoredDataset): Promise<DatasetDto> {
    const common = { id: dataset.id, revision, savedAt: savedAt.toISOString() };
    if ('problems' in read) return { ...common, definition: null, withoutValues: false, problems: read.problems };
    const holds = await this.rights.holds(person, read.definition);
    return { ...common, definition: holds ? read.definition : withoutValues(read.definition), withoutValues: !holds, problems: [] };
  }
}

function lineOf({ dataset, changedBy }: Awaited<ReturnType<DatasetListService['list']>>[number]): DatasetLineDto {
  const { id, title, revision, changedAt, description, tags } = dataset;
  return { id, title, revision, changedAt: changedAt.toISOString(), changedBy, description, tags };
}
