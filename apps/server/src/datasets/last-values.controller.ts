import { Body, Controller, Get, Param, ParseUUIDPipe, Put } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { InjectRepository } from '@nestjs/typeorm';
import { ArrayMaxSize, IsArray, IsString, MaxLength } from 'class-validator';
import { Repository } from 'typeorm';
import { LIMITS } from '../limits';
import { Access, Person, SignedInPerson } from '../people';
import { notFound, refused } from '../problems';
import { DatasetsService } from './datasets.service';
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

/** The values a person used last, remembered for that person only. */
@ApiTags('datasets')
@Controller('datasets/:id/last-values')
@Access('analyst', 'steward')
export class LastValuesController {
  constructor(
    @InjectRepository(LastValue) private readonly lastValues: Repository<LastValue>,
    private readonly datasets: DatasetsService,
  ) {}

  @Get()
  @ApiOkResponse({ type: LastValuesDto })
  async all(@SignedInPerson() person: Person, @Param('id', ParseUUIDPipe) id: string): Promise<LastValuesDto> {
    await this.permitted(person, id);
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
  ): Promise<LastValuesDto> {
    const definition = await this.permitted(person, id);
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

  /** Values are remembered for those who may see the rows they ask for. */
  private async permitted(person: Person, id: string) {
    const { definition } = await this.datasets.definition(id);
    if (await this.datasets.mayUse(person, definition)) return definition;
    throw refused(403, 'source-missing', 'You lack a source this dataset reads.', {}, 'a steward who gives you the source');
  }
}
