import { Body, Controller, Get, Header, HttpCode, Post, Query, Req, Res } from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import type { HeldDatasetOf } from '../datasets';
import { HeldDataset } from '../datasets';
import type { SortBy } from '../engine';
import { goneOf } from '../gone';
import { Access, Held, Needs, NeedsNoSource, Person, SignedInPerson } from '../people';
import { FindQueryDto, FoundDto, ProfileDto, ProfileQueryDto } from './find-and-profile.dto';
import { HeldResult, HeldRun } from './held-result';
import type { Result } from './result.entity';
import { ResultsService } from './results.service';
import { CellDto, CellQueryDto, NewRunDto, PageQueryDto, ResultDto, RunDto, RunLineDto } from './run.dto';
import type { Run } from './run.entity';
import { RunRecordsService, shownResult } from './run-records.service';
import { RunsService } from './runs.service';

@ApiTags('runs')
@Controller('runs')
@Access('analyst', 'steward')
@Needs(HeldRun)
export class RunsController {
  constructor(
    private readonly runs: RunsService,
    private readonly records: RunRecordsService,
  ) {}

  @Post()
  @Needs(HeldDataset)
  @ApiCreatedResponse({ type: RunDto })
  start(@SignedInPerson() person: Person, @Held(HeldDataset) held: HeldDatasetOf, @Body() body: NewRunDto): Promise<RunDto> {
    return this.runs.start(person, held, body);
  }

  @Get()
  @NeedsNoSource()
  @ApiOkResponse({ type: [RunLineDto] })
  list(@SignedInPerson() person: Person): Promise<RunLineDto[]> {
    return this.records.list(person);
  }

  @Get(':id')
  @ApiOkResponse({ type: RunDto })
  async one(@Held(HeldRun) run: Run): Promise<RunDto> {
    return this.runs.shown(run);
  }

  @Post(':id/cancel')
  @HttpCode(200)
  @ApiOkResponse({ type: RunDto })
  cancel(@Held(HeldRun) run: Run): Promise<RunDto> {
    return this.runs.cancel(run);
  }
}

@ApiTags('results')
@Controller('results')
@Access('analyst', 'steward')
@Needs(HeldResult)
export class ResultsController {
  constructor(private readonly results: ResultsService) {}

  @Get(':id')
  @ApiOkResponse({ type: ResultDto })
  one(@Held(HeldResult) result: Result): ResultDto {
    return shownResult(result);
  }

  /** Rows as `[[row number, cell, …], …]`; the engine's bytes go out as they are. */
  @Get(':id/rows')
  @Header('content-type', 'application/json')
  @ApiOkResponse({ schema: { type: 'array', items: { type: 'array', items: {} } } })
  async rows(@Held(HeldResult) result: Result, @Query() query: PageQueryDto, @Res() response: Response): Promise<void> {
    response.end(Buffer.from(await this.results.page(result, query.offset, query.limit, sortOf(query.sort))));
  }

  /** Where a text stands next in the rows, in the order they are sorted by. */
  @Get(':id/find')
  @ApiOkResponse({ type: FoundDto })
  find(@Held(HeldResult) result: Result, @Query() query: FindQueryDto, @Req() request: Request): Promise<FoundDto> {
    return this.results.find(result, query.text, query.from, sortOf(query.sort), goneOf(request));
  }

  /** What the values of a field are like, over all stored rows. */
  @Get(':id/profile')
  @ApiOkResponse({ type: ProfileDto })
  profile(@Held(HeldResult) result: Result, @Query() query: ProfileQueryDto, @Req() request: Request): Promise<ProfileDto> {
    return this.results.profile(result, query.field, goneOf(request));
  }

  @Get(':id/cell')
  @ApiOkResponse({ type: CellDto })
  async cell(@Held(HeldResult) result: Result, @Query() query: CellQueryDto): Promise<CellDto> {
    return this.results.cell(result, query.row, query.field);
  }
}

function sortOf(sort: string | undefined): readonly SortBy[] {
  return (sort ?? '').split(',').flatMap((part) => {
    const [field = '', direction] = part.split(':');
    return field === '' ? [] : [{ field, descending: direction === 'desc' }];
  });
}
