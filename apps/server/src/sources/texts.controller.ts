import { Body, Controller, HttpCode, Post, Req } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request } from 'express';
import { goneOf } from '../gone';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import { HeldSource } from './held-source';
import type { Source } from './source.entity';
import { SourcesService } from './sources.service';
import { DescribedTextDto, DescribeTextDto } from './text.dto';
import { TextsService } from './texts.service';

@ApiTags('sources')
@Controller('sources')
@Access('analyst', 'steward')
@Needs(HeldSource)
export class TextsController {
  constructor(
    private readonly sources: SourcesService,
    private readonly texts: TextsService,
  ) {}

  @Post(':id/texts/describe')
  @HttpCode(200)
  @ApiOkResponse({ type: DescribedTextDto })
  describe(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Body() { text, parameters, script, before }: DescribeTextDto,
    @Req() request: Request,
  ): Promise<DescribedTextDto> {
    return this.sources.inTurn(person, source, goneOf(request), () =>
      script === true ? this.texts.describeScript(source, text, parameters, before) : this.texts.describe(source, text, parameters),
    );
  }
}
