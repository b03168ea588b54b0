import { Body, Controller, Get, Header, HttpCode, Param, ParseUUIDPipe, Post, Query, Res } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { SheetService } from '../datasets/sheet.service';
import { Access, Person, SignedInPerson } from '../people';
import { ResultsService } from '../runs/results.service';
import { LinesQueryDto, NewProofDto, ProofDto } from './proof.dto';
import { ProofService } from './proof.service';

@ApiTags('proof')
@Controller('results/:id/proofs')
@Access('analyst', 'steward')
export class ProofController {
  constructor(
    private readonly results: ResultsService,
    private readonly sheets: SheetService,
    private readonly proofs: ProofService,
  ) {}

  /** Makes the lines, or gives those already made. */
  @Post()
  @HttpCode(200)
  @ApiOkResponse({ type: ProofDto })
  async make(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string, @Body() body: NewProofDto): Promise<ProofDto> {
    const result = await this.results.forPerson(person, id);
    return this.proofs.of(result, await this.sheets.of(person, body.dataset, body.revision));
  }

  /** Lines as `[[line number, cell, …], …]`. */
  @Get(':key/lines')
  @Header('content-type', 'application/json')
  @ApiOkResponse({ schema: { type: 'array', items: { type: 'array', items: {} } } })
  async lines(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('key') key: string,
    @Query() query: LinesQueryDto,
    @Res() response: Response,
  ): Promise<void> {
    const result = await this.results.forPerson(person, id);
    response.end(Buffer.from(await this.proofs.lines(result, key, query.offset, query.limit)));
  }
}
