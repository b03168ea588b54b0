import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post, Put, Query, Req } from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsString, MaxLength } from 'class-validator';
import { Type } from 'class-transformer';
import type { Request } from 'express';
import type { Relation } from '@cendra/core';
import { compile, recogniseRole, typeWord } from '@cendra/core';
import { AuditService } from '../audit/audit.service';
import { goneOf } from '../gone';
import { Access, Held, Needs, NeedsNoSource, Person, SignedInPerson } from '../people';
import { MayBeLeftOut, notFound, WholeNumber } from '../problems';
import type { DescribedTable } from './connectors/connector';
import {
  ChangedSourceDto,
  DescribedTableDto,
  ExactCountDto,
  NewSourceDto,
  SampleDto,
  SourceAccessDto,
  SourceDto,
  TablesDto,
  TestAnswerDto,
  TestSourceDto,
} from './source.dto';
import { HeldSource } from './held-source';
import { sampled, shownText } from './sample';
import type { Source } from './source.entity';
import { SourcesService } from './sources.service';

class TableSearchDto {
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(200) search?: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @Type(() => Number) @WholeNumber(1, 1_000) limit?: number;
}

const SAMPLE_ROWS = 50;

@ApiTags('sources')
@Controller('sources')
@Access('analyst', 'steward')
@Needs(HeldSource)
export class SourcesController {
  constructor(
    private readonly sources: SourcesService,
    private readonly audit: AuditService,
  ) {}

  @Get()
  @NeedsNoSource()
  @ApiOkResponse({ type: [SourceDto] })
  async list(@SignedInPerson() person: Person): Promise<SourceDto[]> {
    return (await this.sources.visibleTo(person)).map((source) => this.shown(source, person));
  }

  @Get(':id')
  @ApiOkResponse({ type: SourceDto })
  one(@SignedInPerson() person: Person, @Held(HeldSource) source: Source): SourceDto {
    return this.shown(source, person);
  }

  @Post()
  @NeedsNoSource()
  @Access('steward')
  @ApiCreatedResponse({ type: SourceDto })
  async add(@SignedInPerson() person: Person, @Body() body: NewSourceDto): Promise<SourceDto> {
    const source = await this.sources.add(body);
    await this.audit.note(person, 'added source', source.name);
    return this.shown(source, person);
  }

  /** Tries settings before they are saved. Stewards only: the answer tells what runs where. */
  @Post('test')
  @HttpCode(200)
  @NeedsNoSource()
  @Access('steward')
  @ApiOkResponse({ type: TestAnswerDto })
  try(@Body() body: TestSourceDto): Promise<TestAnswerDto> {
    return this.sources.try(body);
  }

  @Patch(':id')
  @Access('steward')
  @ApiOkResponse({ type: SourceDto })
  async change(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: ChangedSourceDto,
  ): Promise<SourceDto> {
    const source = await this.sources.change(id, body);
    await this.audit.note(person, 'changed source', source.name, { settings: [...Object.keys(body), ...Object.keys(body.settings ?? {})] });
    return this.shown(source, person);
  }

  @Delete(':id')
  @HttpCode(204)
  @Access('steward')
  async remove(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    const source = await this.sources.remove(id);
    await this.audit.note(person, 'removed source', source.name);
  }

  @Post(':id/test')
  @HttpCode(200)
  @ApiOkResponse({ type: SourceDto })
  async test(@SignedInPerson() person: Person, @Held(HeldSource) source: Source): Promise<SourceDto> {
    return this.shown(await this.sources.test(source), person);
  }

  @Get(':id/access')
  @Access('steward')
  @ApiOkResponse({ type: SourceAccessDto })
  async access(@Held(HeldSource) source: Source): Promise<SourceAccessDto> {
    return { people: await this.sources.people(source.id) };
  }

  @Put(':id/access')
  @Access('steward')
  @ApiOkResponse({ type: SourceAccessDto })
  async give(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: SourceAccessDto,
  ): Promise<SourceAccessDto> {
    await this.sources.give(id, body.people);
    await this.audit.note(person, 'gave source', id, { people: body.people });
    return { people: await this.sources.people(id) };
  }

  @Get(':id/tables')
  @ApiOkResponse({ type: TablesDto })
  async tables(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Query() query: TableSearchDto,
    @Req() request: Request,
  ): Promise<TablesDto> {
    const all = await this.inTurn(person, source, request, () => this.sources.tables(source));
    const words = (query.search ?? '')
      .toLowerCase()
      .split(/\s+/)
      .filter((each) => each !== '');
    const found = all.filter(({ schema, name }) => words.every((word) => `${schema}.${name}`.toLowerCase().includes(word)));
    return { tables: found.slice(0, query.limit ?? 200), total: found.length };
  }

  @Get(':id/tables/:schema/:table')
  @ApiOkResponse({ type: DescribedTableDto })
  async describe(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Param('schema') schema: string,
    @Param('table') table: string,
    @Req() request: Request,
  ): Promise<DescribedTableDto> {
    const described = await this.inTurn(person, source, request, () => this.described(source, schema, table));
    return {
      ...described,
      columns: described.columns.map((column) => ({
        ...column,
        typeWord: typeWord(column.type),
        role: recogniseRole(column),
      })),
    };
  }

  @Get(':id/tables/:schema/:table/sample')
  @ApiOkResponse({ type: SampleDto })
  async sample(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Param('schema') schema: string,
    @Param('table') table: string,
    @Req() request: Request,
  ): Promise<SampleDto> {
    const { described, asOf, rows } = await this.inTurn(person, source, request, async (gone) => {
      const found = await this.described(source, schema, table);
      return { described: found, ...(await this.ask(source, sampled(relationOf(source.id, found), SAMPLE_ROWS), gone)) };
    });
    const shown = rows.map((row) => row.map((cell) => (cell === null ? null : shownText(cell))));
    return { columns: described.columns.map((each) => each.name), rows: shown, asOf };
  }

  @Get(':id/tables/:schema/:table/count')
  @ApiOkResponse({ type: ExactCountDto })
  async count(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Param('schema') schema: string,
    @Param('table') table: string,
    @Req() request: Request,
  ): Promise<ExactCountDto> {
    const { asOf, rows } = await this.inTurn(person, source, request, async (gone) => {
      const input = relationOf(source.id, { ...(await this.described(source, schema, table)), columns: [] });
      return this.ask(source, { node: 'group', input, keys: [], counts: [{ id: 'rows' }] }, gone);
    });
    return { rows: rows[0]?.[0] ?? '0', asOf };
  }

  private async described(source: Source, schema: string, table: string): Promise<DescribedTable> {
    const described = await this.sources.describe(source, schema, table, true);
    if (!described) throw notFound('table');
    return described;
  }

  /** Stopped at the source when whoever asked has gone. */
  private async ask(source: Source, relation: Relation, gone: AbortSignal) {
    const snapshot = await this.sources.open(source, gone);
    const cancel = () => void snapshot.cancel();
    gone.addEventListener('abort', cancel, { once: true });
    try {
      const { dialect } = this.sources.connector(source);
      const rows = await snapshot.rows(compile(relation, dialect, { bound: new Map(), now: 0n }));
      return { rows, asOf: snapshot.asOf.toISOString() };
    } finally {
      gone.removeEventListener('abort', cancel);
      await snapshot.close();
    }
  }

  private inTurn<T>(person: Person, source: Source, request: Request, ask: (gone: AbortSignal) => Promise<T>): Promise<T> {
    const gone = goneOf(request);
    return this.sources.inTurn(person, source, gone, () => ask(gone));
  }

  private shown(source: Source, person: Person): SourceDto {
    const { id, name, mark, kind, settings, test } = source;
    const steward = person.role === 'steward';
    const shown: SourceDto = { id, name, mark, kind };
    if (steward) shown.settings = settings;
    if (test) {
      const { detail, ...answer } = test.answer as TestAnswerDto;
      shown.test = { ...answer, at: test.at, stale: this.sources.isStale(source), ...(steward && detail !== undefined ? { detail } : {}) };
    }
    return shown;
  }
}

function relationOf(source: string, described: DescribedTable): Relation {
  const columns = described.columns.map(({ name, type, sourceType, looseText }) => ({
    id: name,
    name,
    type,
    column: name,
    sourceType,
    looseText,
  }));
  return { node: 'table', site: { kind: 'source', source }, schema: described.schema, table: described.name, columns };
}
