import { ApiProperty } from '@nestjs/swagger';
import { IsObject, IsUUID } from 'class-validator';
import { WholeNumber } from '../problems';

export class QuestionDto {
  @ApiProperty() @IsUUID() dataset!: string;
  @ApiProperty() @WholeNumber(1) revision!: number;
  /** By parameter id; a list of texts in wire form, empty for blank. */
  @ApiProperty({ type: 'object', additionalProperties: { type: 'array', items: { type: 'string' } } }) @IsObject() values!: Record<
    string,
    string[]
  >;
  /** What is asked; checked by core, which also says what its answer looks like. */
  @ApiProperty({ type: 'object', additionalProperties: true }) @IsObject() question!: object;
}
