import { Controller, Get, Header, HttpCode, Param, Post, Body, Query, Req, Res } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import type { HeldDatasetOf } from '../datasets';
import { HeldDataset } from '../datasets';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import { ProblemDto } from '../problems';
import { HeldResult } from '../runs/held-result';
import type { Result } from '../runs/result.entity';
import { goneOf } from '../gone';
import { LinesQueryDto, NewProofDto, ProofDto, RowsBehindAskedDto, RowsBehindDto } from './proof.dto';
import { ProofService } from './proof.service';

@ApiTags('proof')
@Controller('results/:id/proofs')
@Access('analyst', 'steward')
@Needs(HeldResult)
export class ProofController {
  constructor(private readonly proofs: ProofService) {}

  /** Makes the lines, or gives those already made. Who goes away stops what nobody else waits for. */
  @Post()
  @HttpCode(200)
  @Needs(HeldResult, HeldDataset)
  @ApiOkResponse({ type: ProofDto })
  make(
    @SignedInPerson() person: Person,
    @Held(HeldResult) result: Result,
    @Held(HeldDataset) held: HeldDatasetOf,
    @Body() _body: NewProofDto,
    @Req() request: Request,
  ): Promise<ProofDto> {
    return this.proofs.of(person, result, held, goneOf(request));
  }

  /** The same of the groups the chart draws, and nothing else. */
  @Post('chart')
  @HttpCode(200)
  @Needs(HeldResult, HeldDataset)
  @ApiOkResponse({ type: ProofDto })
  draw(
    @SignedInPerson() person: Person,
    @Held(HeldResult) result: Result,
    @Held(HeldDataset) held: HeldDatasetOf,
    @Body() _body: NewProofDto,
    @Req() request: Request,
  ): Promise<ProofDto> {
    return this.proofs.of(person, result, held, goneOf(request), 'chart');
  }

  /** What is off in the rows, as the proof reads them: looked at in all of them, beside the lines. */
  @Post('findings')
  @HttpCode(200)
  @Needs(HeldResult, HeldDataset)
  @ApiOkResponse({ type: [ProblemDto] })
  findings(
    @SignedInPerson() person: Person,
    @Held(HeldResult) result: Result,
    @Held(HeldDataset) held: HeldDatasetOf,
    @Body() _body: NewProofDto,
    @Req() request: Request,
  ): Promise<readonly ProblemDto[]> {
    return this.proofs.findings(person, result, held, goneOf(request));
  }

  /** The rows a line is made of, or one of its figures. */
  @Post('rows')
  @HttpCode(200)
  @Needs(HeldResult, HeldDataset)
  @ApiOkResponse({ type: RowsBehindDto })
  behind(
    @SignedInPerson() person: Person,
    @Held(HeldResult) result: Result,
    @Held(HeldDataset) held: HeldDatasetOf,
    @Body() body: RowsBehindAskedDto,
    @Req() request: Request,
  ): Promise<RowsBehindDto> {
    return this.proofs.behind(person, result, held, body, goneOf(request));
  }

  /** Lines as `[[line number, cell, …], …]`. */
  @Get(':key/lines')
  @Header('content-type', 'application/json')
  @ApiOkResponse({ schema: { type: 'array', items: { type: 'array', items: {} } } })
  async lines(
    @Held(HeldResult) result: Result,
    @Param('key') key: string,
    @Query() query: LinesQueryDto,
    @Res() response: Response,
  ): Promise<void> {
    response.end(Buffer.from(await this.proofs.lines(result, key, query.offset, query.limit)));
  }
}
