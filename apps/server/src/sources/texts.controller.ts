import { Body, Controller, HttpCode, Post, Req } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request } from 'express';
import type { Parameter } from '@cendra/core';
import { describable, offsetBack, problem, statementsIn, tokensOf } from '@cendra/core';
import { goneOf } from '../gone';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import { ProblemException } from '../problems';
import { HeldSource } from './held-source';
import type { Source } from './source.entity';
import { SourcesService } from './sources.service';
import { DescribedTextDto, DescribeTextDto } from './text.dto';

/** What a source says of texts written for it, without running them. */
@ApiTags('sources')
@Controller('sources')
@Access('analyst', 'steward')
@Needs(HeldSource)
export class TextsController {
  constructor(private readonly sources: SourcesService) {}

  /** A text that is wrong is an answer as well: what is wrong with it, and where. */
  @Post(':id/texts/describe')
  @HttpCode(200)
  @ApiOkResponse({ type: DescribedTextDto })
  async describe(
    @SignedInPerson() person: Person,
    @Held(HeldSource) source: Source,
    @Body() { text, parameters }: DescribeTextDto,
    @Req() request: Request,
  ): Promise<DescribedTextDto> {
    const statements = statementsIn(tokensOf(text));
    const [statement] = statements;
    if (!statement || statements.length > 1) {
      const wrong = statement
        ? problem('statements-several', `There are ${statements.length} statements in this text.`)
        : problem('text-empty', 'There is no statement in this text.');
      return { columns: [], met: [], problems: [{ ...wrong, expected: 'one statement' }] };
    }
    const asked = describable(text, statement, parameters as unknown as readonly Parameter[]);
    const gone = goneOf(request);
    const leave = await this.sources.enter(person, [source.id], gone);
    try {
      const described = await this.sources.describeText(
        source,
        asked.text,
        asked.places.map((each) => each.type),
      );
      const met = described.parameters.flatMap(({ sourceType, type }, at) => {
        const name = asked.places[at]?.name;
        return name === undefined ? [] : [{ name, sourceType, type }];
      });
      return { columns: described.columns, met, problems: [] };
    } catch (error) {
      if (!(error instanceof ProblemException) || error.getStatus() !== 422) throw error;
      const { detail } = error;
      const problems = error.problems.map(({ place, ...own }) => {
        const each = detail === undefined ? own : { ...own, detail };
        const { position } = place;
        if (!position) return { ...each, place };
        return {
          ...each,
          place: { ...place, position: { from: offsetBack(asked.moved, position.from), to: offsetBack(asked.moved, position.to) } },
        };
      });
      return { columns: [], met: [], problems };
    } finally {
      leave();
    }
  }
}
