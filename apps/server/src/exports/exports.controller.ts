import { createReadStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { Controller, Get, Param, ParseUUIDPipe, Query, Req, Res } from '@nestjs/common';
import { ApiProduces, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsOptional, IsString, MaxLength } from 'class-validator';
import type { Request, Response } from 'express';
import { AuditService } from '../audit/audit.service';
import { LIMITS } from '../limits';
import { Access, Person, SignedInPerson } from '../people';
import { refused } from '../problems';
import { ResultsService } from '../runs/results.service';

class TakeAwayQueryDto {
  @ApiProperty({ required: false }) @IsOptional() @IsString() @MaxLength(200) name?: string;
}

@ApiTags('exports')
@Controller('results')
@Access('analyst', 'steward')
export class ExportsController {
  private preparing = 0;

  constructor(
    private readonly results: ResultsService,
    private readonly audit: AuditService,
  ) {}

  /** The whole stored result, streamed. The header `x-cendra-complete` says whether rows are missing from it. */
  @Get(':id/csv')
  @ApiProduces('text/csv')
  async csv(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Query() query: TakeAwayQueryDto,
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    const result = await this.results.forPerson(person, id);
    if (this.preparing >= LIMITS.csvAtOnce.value)
      throw refused(429, 'too-many-downloads', 'Too many downloads are being prepared.', {}, 'to try again in a moment');
    this.preparing++;
    const gone = new AbortController();
    request.on('close', () => gone.abort());
    let file: string | undefined;
    try {
      file = await this.results.csv(result, gone.signal);
      const name = `${(query.name ?? 'rows').replaceAll(/[^\p{L}\p{N} ._,-]/gu, '').trim() || 'rows'}.csv`;
      response.set({
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
        'x-cendra-complete': String(result.complete),
      });
      await pipeline(createReadStream(file), response, { signal: gone.signal });
      await this.audit.note(person, 'took away', `result ${id}`, { format: 'csv', rows: result.rows });
    } catch (error) {
      // A reader who went away is no failure; there is nobody left to tell.
      if (!gone.signal.aborted) throw error;
    } finally {
      this.preparing--;
      if (file !== undefined) await rm(file, { force: true });
    }
  }
}
