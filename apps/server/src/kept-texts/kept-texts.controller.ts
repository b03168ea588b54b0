import { Body, Controller, Delete, Get, HttpCode, Patch, Post, Query } from '@nestjs/common';
import { ApiCreatedResponse, ApiNoContentResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access, Held, Needs, NeedsNoSource, Person, SignedInPerson } from '../people';
import { HeldText } from './held-text';
import { ChangedKeptTextDto, KeptTextDto, KeptTextLineDto, NewKeptTextDto, SoughtDto } from './kept-text.dto';
import { KeptText } from './kept-text.entity';
import { KeptTextsService } from './kept-texts.service';

@ApiTags('kept texts')
@Controller('kept-texts')
@Access('analyst', 'steward')
@Needs(HeldText)
export class KeptTextsController {
  constructor(private readonly texts: KeptTextsService) {}

  @Get()
  @NeedsNoSource()
  @ApiOkResponse({ type: [KeptTextLineDto] })
  list(@SignedInPerson() person: Person, @Query() { find }: SoughtDto): Promise<readonly KeptTextLineDto[]> {
    return this.texts.list(person, find);
  }

  /** Its source is asked for where it is kept. */
  @Post()
  @NeedsNoSource()
  @ApiCreatedResponse({ type: KeptTextDto })
  async keep(@SignedInPerson() person: Person, @Body() given: NewKeptTextDto): Promise<KeptTextDto> {
    return this.texts.one(await this.texts.keep(person, given));
  }

  @Get(':id')
  @ApiOkResponse({ type: KeptTextDto })
  one(@Held(HeldText) text: KeptText): Promise<KeptTextDto> {
    return this.texts.one(text);
  }

  @Patch(':id')
  @ApiOkResponse({ type: KeptTextDto })
  async change(@SignedInPerson() person: Person, @Held(HeldText) text: KeptText, @Body() given: ChangedKeptTextDto): Promise<KeptTextDto> {
    return this.texts.one(await this.texts.change(person, text, given));
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiNoContentResponse()
  remove(@Held(HeldText) text: KeptText): Promise<void> {
    return this.texts.remove(text);
  }
}
