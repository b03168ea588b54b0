import { Body, Controller, Get, Header, HttpCode, Param, ParseUUIDPipe, Post, Query, Req, Res } from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import type { SortBy } from '../engine';
import { Access, Person, SignedInPerson } from '../people';
import { ResultsService } from './results.service';
import { FindQueryDto, FoundDto, ProfileDto, ProfileQueryDto } from './looking.dto';
import { CellDto, CellQueryDto, NewRunDto, PageQueryDto, ResultDto, RunDto } from './run.dto';
import { RunsService } from './runs.service';

@ApiTags('runs')
@Controller('runs')
@Access('analyst', 'steward')
export class RunsController {
  constructor(private readonly runs: RunsService) {}

  @Post()
  @ApiCreatedResponse({ type: RunDto })
  start(@SignedInPerson() person: Person, @Body() body: NewRunDto): Promise<RunDto> {
    return this.runs.start(person, body);
  }

  @Get()
  @ApiOkResponse({ type: [RunDto] })
  list(@SignedInPerson() person: Person): Promise<RunDto[]> {
    return this.runs.list(person);
  }

  @Get(':id')
  @ApiOkResponse({ type: RunDto })
  async one(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<RunDto> {
    return this.runs.shown(await this.runs.forPerson(person, id));
  }

  @Post(':id/cancel')
  @HttpCode(200)
  @ApiOkResponse({ type: RunDto })
  async cancel(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<RunDto> {
    return this.runs.cancel(await this.runs.forPerson(person, id));
  }
}

@ApiTags('results')
@Controller('results')
@Access('analyst', 'steward')
export class ResultsController {
  constructor(private readonly results: ResultsService) {}

  @Get(':id')
  @ApiOkResponse({ type: ResultDto })
  async one(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<ResultDto> {
    const { columns, rows, complete, cut, misfits, asOf } = await this.results.forPerson(person, id);
    return { id, columns, rows, complete, cut, misfits, asOf: asOf.toISOString() };
  }

  /** Rows as `[[row number, cell, …], …]`; the engine's bytes go out as they are. */
  @Get(':id/rows')
  @Header('content-type', 'application/json')
  @ApiOkResponse({ schema: { type: 'array', items: { type: 'array', items: {} } } })
  async rows(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Query() query: PageQueryDto,
    @Res() response: Response,
  ): Promise<void> {
    const result = await this.results.forPerson(person, id);
    response.end(Buffer.from(await this.results.page(result, query.offset, query.limit, sortOf(query.sort))));
  }

  /** Where a text stands next in the rows, in the order they are sorted by. */
  @Get(':id/find')
  @ApiOkResponse({ type: FoundDto })
  async find(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Query() query: FindQueryDto,
    @Req() request: Request,
  ): Promise<FoundDto> {
    const result = await this.results.forPerson(person, id);
    return this.results.find(result, query.text, query.from, sortOf(query.sort), goneOf(request));
  }

  /** What the values of a field are like, over all stored rows. */
  @Get(':id/profile')
  @ApiOkResponse({ type: ProfileDto })
  async profile(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Query() query: ProfileQueryDto,
    @Req() request: Request,
  ): Promise<ProfileDto> {
    return this.results.profile(await this.results.forPerson(person, id), query.field, goneOf(request));
  }

  @Get(':id/cell')
  @ApiOkResponse({ type: CellDto })
  async cell(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string, @Query() query: CellQueryDto): Promise<CellDto> {
    return { text: await this.results.cell(await this.results.forPerson(person, id), query.row, query.field) };
  }
}

/** Aborted when whoever asked has gone away. */
function goneOf(request: Request): AbortSignal {
  const gone = new AbortController();
  request.on('close', () => gone.abort());
  return gone.signal;
}

function sortOf(sort: string | undefined): readonly SortBy[] {
  return (sort ?? '').split(',').flatMap((part) => {
    const [field = '', direction] = part.split(':');
    return field === '' ? [] : [{ field, descending: direction === 'desc' }];
  });
}
