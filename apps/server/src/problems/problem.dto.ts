import { ApiProperty } from '@nestjs/swagger';

export class SpanDto {
  @ApiProperty() from!: number;
  @ApiProperty() to!: number;
}

export class PlaceDto {
  @ApiProperty({ required: false }) step?: string;
  @ApiProperty({ required: false }) input?: number;
  @ApiProperty({ required: false }) clause?: string;
  @ApiProperty({ required: false }) item?: string;
  @ApiProperty({ required: false }) side?: string;
  @ApiProperty({ required: false }) field?: string;
  @ApiProperty({ required: false }) parameter?: string;
  @ApiProperty({ required: false, type: SpanDto }) position?: SpanDto;
  @ApiProperty({ required: false }) pointer?: string;
}

/** One problem as core makes it. */
export class ProblemDto {
  @ApiProperty() code!: string;
  @ApiProperty({ enum: ['error', 'warning', 'hint'] }) severity!: 'error' | 'warning' | 'hint';
  @ApiProperty() message!: string;
  @ApiProperty({ required: false }) expected?: string;
  @ApiProperty({ required: false }) detail?: string;
  @ApiProperty({ type: PlaceDto }) place!: PlaceDto;
}
