import { Body, Controller, Get, HttpCode, Param, Post, Put, Query, Req } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request } from 'express';
import { AuditService } from '../audit/audit.service';
import { goneOf } from '../gone';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import { notFound } from '../problems';
import { HeldSource } from './held-source';
import {
  AdmittedDto,
  CalledOnceDto,
  DescribedRoutineDto,
  RoutineResultDto,
  RoutineSearchDto,
  RoutineTriedDto,
  RoutinesDto,
  RoutineSignatureDto,
  RoutineTextDto,
} from './routine.dto';
import { RoutinesService } from './routines.service';
import type { Source } from './source.entity';
import { SourcesService } from './sources.service';

@ApiTags('sources')
@Controller('sources')
@Access('analyst', 'steward')
@Needs(HeldSource)
export class RoutinesController {
  constructor(
    private readonly sources: SourcesService,
    private readonly routines: RoutinesService,
    private readonly audit: AuditService,
  ) {}

  @Get(':id/routines')
  @ApiOkResponse({ type: RoutinesDto })
  list(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Query() { search, limit = 200 }: RoutineSearchDto,
    @Req() request: Request,
  ): Promise<RoutinesDto> {
    return this.inTurn(person, source, request, async () => {
      const found = await this.routines.list(source, search);
      return { routines: found.slice(0, limit), total: found.length };
    });
  }

  @Get(':id/routines/text')
  @ApiOkResponse({ type: RoutineTextDto })
  text(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Query() { signature }: RoutineSignatureDto,
    @Req() request: Request,
  ): Promise<RoutineTextDto> {
    return this.inTurn(person, source, request, () => this.routines.text(source, signature));
  }

  @Post(':id/routines/describe')
  @HttpCode(200)
  @ApiOkResponse({ type: DescribedRoutineDto })
  describe(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Body() asked: RoutineResultDto,
    @Req() request: Request,
  ): Promise<DescribedRoutineDto> {
    return this.inTurn(person, source, request, () => this.routines.describe(source, asked, goneOf(request)));
  }

  /** Calls one with typed values and shows what it gives; everything it does is taken back. */
  @Post(':id/routines/try')
  @HttpCode(200)
  @ApiOkResponse({ type: CalledOnceDto })
  tryOut(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Body() asked: RoutineTriedDto,
    @Req() request: Request,
  ): Promise<CalledOnceDto> {
    return this.inTurn(person, source, request, async () => {
      const called = await this.routines.tryOut(source, asked, goneOf(request));
      if (source.admitted.includes(asked.signature))
        await this.audit.note(person, 'tried a routine', source.name, { routine: asked.signature });
      return called;
    });
  }

  /** Says which routines may run although they are declared as such that may write: a steward’s word, and kept. */
  @Put(':id/routines/admitted')
  @Access('steward')
  @ApiOkResponse({ type: AdmittedDto })
  async admit(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Body() { signatures }: AdmittedDto,
  ): Promise<AdmittedDto> {
    const { admitted } = await this.sources.admit(source, [...new Set(signatures)]);
    await this.audit.note(person, 'said which routines may run', source.name, { routines: admitted });
    return { signatures: [...admitted] };
  }

  @Get(':id/tables/:schema/:table/text')
  @ApiOkResponse({ type: RoutineTextDto })
  viewText(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Param('schema') schema: string,
    @Param('table') table: string,
    @Req() request: Request,
  ): Promise<RoutineTextDto> {
    return this.inTurn(person, source, request, async () => {
      const found = await this.sources.viewText(source, schema, table);
      if (!found) throw notFound('view');
      return found;
    });
  }

  private inTurn<T>(person: Person, source: Source, request: Request, ask: () => Promise<T>): Promise<T> {
    return this.sources.inTurn(person, source, goneOf(request), ask);
  }
}
