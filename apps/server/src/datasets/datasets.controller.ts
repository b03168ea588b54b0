import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Post, Query } from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsInt, IsOptional, Min } from 'class-validator';
import { Type } from 'class-transformer';
import { readDefinition, withoutValues } from '@cendra/core';
import { AuditService } from '../audit/audit.service';
import { Access, Person, SignedInPerson } from '../people';
import { refused } from '../problems';
import { DatasetDto, DatasetLineDto, EditsDto, KnownTableDto, NewDatasetDto, RevisionDto } from './dataset.dto';
import type { OpenDataset } from './datasets.service';
import { DatasetsService } from './datasets.service';
import { KeepingService } from './keeping.service';

class RevisionQueryDto {
  @ApiProperty({ required: false }) @IsOptional() @Type(() => Number) @IsInt() @Min(1) revision?: number;
}

class HistoryQueryDto {
  @ApiProperty({ required: false }) @IsOptional() @Type(() => Number) @IsInt() @Min(1) before?: number;
}

@ApiTags('datasets')
@Controller('datasets')
@Access('analyst', 'steward')
export class DatasetsController {
  constructor(
    private readonly datasets: DatasetsService,
    private readonly keeping: KeepingService,
    private readonly audit: AuditService,
  ) {}

  @Get()
  @ApiOkResponse({ type: [DatasetLineDto] })
  async list(): Promise<DatasetLineDto[]> {
    return (await this.datasets.list()).map(lineOf);
  }

  /** Those that were deleted and can still be taken back. */
  @Get('deleted')
  @ApiOkResponse({ type: [DatasetLineDto] })
  async deleted(): Promise<DatasetLineDto[]> {
    return (await this.datasets.list(true)).map(lineOf);
  }

  @Post()
  @ApiCreatedResponse({ type: DatasetDto })
  async create(@SignedInPerson() person: Person, @Body() body: NewDatasetDto): Promise<DatasetDto> {
    const dataset = await this.datasets.create(person, body);
    await this.audit.note(person, 'began dataset', dataset.title);
    return this.shown(person, await this.datasets.open(dataset.id));
  }

  @Post(':id/copies')
  @ApiCreatedResponse({ type: DatasetDto })
  async duplicate(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<DatasetDto> {
    const copy = await this.keeping.duplicate(person, id);
    await this.audit.note(person, 'copied dataset', copy.title);
    return this.shown(person, await this.datasets.open(copy.id));
  }

  @Delete(':id')
  @HttpCode(204)
  async delete(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    const { title } = await this.keeping.delete(person, id);
    await this.audit.note(person, 'deleted dataset', title);
  }

  @Post(':id/taking-back')
  @HttpCode(200)
  @ApiOkResponse({ type: DatasetDto })
  async takeBack(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<DatasetDto> {
    const { title } = await this.keeping.takeBack(person, id);
    await this.audit.note(person, 'took back dataset', title);
    return this.shown(person, await this.datasets.open(id));
  }

  @Get(':id')
  @ApiOkResponse({ type: DatasetDto })
  async one(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Query() query: RevisionQueryDto,
  ): Promise<DatasetDto> {
    return this.shown(person, await this.datasets.open(id, query.revision));
  }

  @Post(':id/edits')
  @ApiCreatedResponse({ type: DatasetDto })
  async edit(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string, @Body() body: EditsDto): Promise<DatasetDto> {
    return this.shown(person, await this.datasets.edit(person, id, body));
  }

  @Get(':id/revisions')
  @ApiOkResponse({ type: [RevisionDto] })
  async revisions(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Query() query: HistoryQueryDto,
  ): Promise<RevisionDto[]> {
    await this.requireRights(person, id);
    const history = await this.datasets.history(id, query.before);
    return history.map(({ number, sentence, madeAt, person: name }) => ({ number, sentence, madeAt: madeAt.toISOString(), person: name }));
  }

  /** The tables it reads as the sources describe them now. */
  @Get(':id/tables')
  @ApiOkResponse({ type: [KnownTableDto] })
  async tables(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<KnownTableDto[]> {
    const definition = await this.requireRights(person, id);
    return this.datasets.known(person, definition, true);
  }

  /** The sentences of a history hold typed values, so they need the sources as rows do. */
  private async requireRights(person: Person, id: string) {
    const { definition } = await this.datasets.definition(id);
    if (await this.datasets.mayUse(person, definition)) return definition;
    throw refused(403, 'source-missing', 'You lack a source this dataset reads.', {}, 'a steward who gives you the source');
  }

  private async shown(person: Person, { dataset, revision, document, savedAt }: OpenDataset): Promise<DatasetDto> {
    const common = { id: dataset.id, revision, savedAt: savedAt.toISOString() };
    const read = readDefinition(document);
    if ('problems' in read) return { ...common, definition: null, withoutValues: false, problems: read.problems };
    const may = await this.datasets.mayUse(person, read.definition);
    return { ...common, definition: may ? read.definition : withoutValues(read.definition), withoutValues: !may, problems: [] };
  }
}

function lineOf({ dataset, changedBy }: Awaited<ReturnType<DatasetsService['list']>>[number]): DatasetLineDto {
  const { id, title, revision, changedAt, description, tags } = dataset;
  return { id, title, revision, changedAt: changedAt.toISOString(), changedBy, description, tags };
}
