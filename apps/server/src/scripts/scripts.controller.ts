import { Body, Controller, HttpCode, Post, Req } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request } from 'express';
import type { ToldScript } from '@cendra/core';
import type { HeldDatasetOf } from '../datasets';
import { HeldDataset } from '../datasets';
import { goneOf } from '../gone';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import { EndedScriptDto, RunScriptDto, ScriptDto } from './script.dto';
import { ScriptsService } from './scripts.service';

/** Scripts, statement by statement, in sessions that are kept for a while. */
@ApiTags('scripts')
@Controller('scripts')
@Access('analyst', 'steward')
@Needs(HeldDataset)
export class ScriptsController {
  constructor(private readonly scripts: ScriptsService) {}

  /** Whoever goes away stops what runs, at the source. */
  @Post('run')
  @HttpCode(200)
  @ApiOkResponse({ schema: { type: 'object', additionalProperties: true } })
  run(
    @SignedInPerson() person: Person,
    @Held(HeldDataset) held: HeldDatasetOf,
    @Body() body: RunScriptDto,
    @Req() request: Request,
  ): Promise<ToldScript> {
    return this.scripts.run(person, held, body, goneOf(request));
  }

  @Post('end')
  @HttpCode(200)
  @ApiOkResponse({ type: EndedScriptDto })
  end(@SignedInPerson() person: Person, @Held(HeldDataset) held: HeldDatasetOf, @Body() { step }: ScriptDto): EndedScriptDto {
    return { ended: this.scripts.end(person, held.dataset.id, step) };
  }
}
