import { Body, Controller, HttpCode, Post, Req } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request } from 'express';
import type { HeldDatasetOf } from '../datasets';
import { HeldDataset } from '../datasets';
import { goneOf } from '../gone';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import { AnswersService } from './answers.service';
import { QuestionDto } from './question.dto';

/** Questions about a dataset's rows that are answered with few words: values, choices, what became of a row. */
@ApiTags('answers')
@Controller('answers')
@Access('analyst', 'steward')
export class AnswersController {
  constructor(private readonly answers: AnswersService) {}

  /** A reader who goes away stops what runs for the answer, at the source. */
  @Post()
  @HttpCode(200)
  @Needs(HeldDataset)
  @ApiOkResponse({ schema: { type: 'object', additionalProperties: true } })
  answer(
    @SignedInPerson() person: Person,
    @Held(HeldDataset) held: HeldDatasetOf,
    @Body() body: QuestionDto,
    @Req() request: Request,
  ): Promise<object> {
    return this.answers.answer(person, held, body, goneOf(request));
  }
}
