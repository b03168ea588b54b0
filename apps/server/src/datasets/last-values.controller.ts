import { Body, Controller, Get, Param, ParseUUIDPipe, Put } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { InjectRepository } from '@nestjs/typeorm';
import { ArrayMaxSize, IsArray, IsString, MaxLength } from 'class-validator';
import { Repository } from 'typeorm';
import { LIMITS } from '../limits';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import { notFound, refused } from '../problems';
import type { HeldDatasetOf } from './held-dataset';
import { HeldDataset } from './held-dataset';
import { LastValue } from './last-value.entity';

export class LastValueDto {
  /** In wire form or relative words; none for left blank. */
  @ApiProperty({ type: [String] })
  @IsArray()
  @ArrayMaxSize(LIMITS.listValues.value)
  @IsString({ each: true })
  @MaxLength(10_000, { each: true })
  values!: string[];
}

export class LastValuesDto {
  @ApiProperty({ type: 'object', additionalProperties: { type: 'array', items: { type: 'string' } } }) values!: Record<
    string,
    readonly string[]
  >;
}

/** The values a person used last, remembered for that person only, while they may see the rows the values ask for. */
@ApiTags('datasets')
@Controller('datasets/:id/last-values')
@Access('analyst', 'steward')
@Needs(HeldDataset)
export class LastValuesController {
  constructor(@InjectRepository(LastValue) private readonly lastValues: Repository<LastValue>) {}

  @Get()
  @ApiOkResponse({ type: LastValuesDto })
  async all(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<LastValuesDto> {
    const known = await this.lastValues.findBy({ personId: person.id, datasetId: id });
    return { values: Object.fromEntries(known.map((each) => [each.parameterId, each.given])) };
  }

  @Put(':parameter')
  @ApiOkResponse({ type: LastValuesDto })
  async keep(
    @SignedInPerson() person: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('parameter') parameterId: string,
    @Body() body: LastValueDto,
    @Held(HeldDataset) { definition }: HeldDatasetOf,
  ): Promise<LastValuesDto> {
    const parameter = definition.parameters.find((each) => each.id === parameterId);
    if (!parameter) throw notFound('parameter');
    if (parameter.isPrivate)
      throw refused(422, 'value-private', `Values of :${parameter.name} are not remembered.`, { parameter: parameterId });
    await this.lastValues.upsert({ personId: person.id, datasetId: id, parameterId, given: body.values as never, changedAt: new Date() }, [
      'personId',
      'datasetId',
      'parameterId',
    ]);
    return this.all(person, id);
  }
}
