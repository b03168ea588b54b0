import { Body, Controller, Delete, Get, HttpCode, Post, Put, Query, Req } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request } from 'express';
import { AuditService } from '../audit/audit.service';
import type { HeldDatasetOf } from '../datasets';
import { HeldDataset } from '../datasets';
import { goneOf } from '../gone';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import type { Source } from '../sources';
import { HeldSource, RoutineSignatureDto } from '../sources';
import { KeepingService } from './keeping.service';
import {
  ChangedKeepingDto,
  KeepingDto,
  KeepRoutineDto,
  RoutineKeptDto,
  RoutineMadeDto,
  RoutinePreviewDto,
  RoutineToKeepDto,
} from './kept-routine.dto';
import { KeptRoutinesService } from './kept-routines.service';

/** Who may keep functions in a source, and what was made there. */
@ApiTags('kept-routines')
@Controller('sources')
@Access('analyst', 'steward')
@Needs(HeldSource)
export class KeepingController {
  constructor(
    private readonly keeping: KeepingService,
    private readonly routines: KeptRoutinesService,
    private readonly audit: AuditService,
  ) {}

  @Get(':id/keeping')
  @ApiOkResponse({ type: KeepingDto })
  shown(@SignedInPerson() person: Person, @Held(HeldSource) source: Source): Promise<KeepingDto> {
    return this.keeping.shown(person, source);
  }

  @Put(':id/keeping')
  @Access('steward')
  @ApiOkResponse({ type: KeepingDto })
  async change(@SignedInPerson() person: Person, @Held(HeldSource) source: Source, @Body() body: ChangedKeepingDto): Promise<KeepingDto> {
    await this.keeping.change(source, body);
    const { user, schema, people } = body;
    await this.audit.note(person, 'said who keeps functions', source.name, { user, schema, people });
    return this.keeping.shown(person, source);
  }

  @Delete(':id/keeping')
  @Access('steward')
  @ApiOkResponse({ type: KeepingDto })
  async end(@SignedInPerson() person: Person, @Held(HeldSource) source: Source): Promise<KeepingDto> {
    await this.keeping.end(source);
    await this.audit.note(person, 'said that nobody keeps functions', source.name);
    return this.keeping.shown(person, source);
  }

  @Get(':id/kept-routines')
  @ApiOkResponse({ type: [RoutineMadeDto] })
  made(@Held(HeldSource) source: Source, @Query() { signature }: RoutineSignatureDto): Promise<readonly RoutineMadeDto[]> {
    return this.routines.history(source, signature);
  }
}

/** Texts and scripts of datasets as functions of their source. */
@ApiTags('kept-routines')
@Controller('kept-routines')
@Access('analyst', 'steward')
@Needs(HeldDataset)
export class KeptRoutinesController {
  constructor(
    private readonly routines: KeptRoutinesService,
    private readonly audit: AuditService,
  ) {}

  @Post('preview')
  @HttpCode(200)
  @ApiOkResponse({ type: RoutinePreviewDto })
  preview(
    @SignedInPerson() person: Person,
    @Held(HeldDataset) held: HeldDatasetOf,
    @Body() body: RoutineToKeepDto,
    @Req() request: Request,
  ): Promise<RoutinePreviewDto> {
    return this.routines.preview(person, held, body, goneOf(request));
  }

  @Post()
  @HttpCode(200)
  @ApiOkResponse({ type: RoutineKeptDto })
  async keep(
    @SignedInPerson() person: Person,
    @Held(HeldDataset) held: HeldDatasetOf,
    @Body() body: KeepRoutineDto,
    @Req() request: Request,
  ): Promise<RoutineKeptDto> {
    const kept = await this.routines.keep(person, held, body, goneOf(request));
    await this.audit.note(person, 'kept a text as a function', kept.signature, { dataset: held.dataset.id });
    return kept;
  }
}
