import { ApiProperty } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import { ArrayMaxSize, IsArray, IsBoolean, IsIn, IsString, Matches, MaxLength, ValidateNested } from 'class-validator';
import { PARAMETER_NAME, PARAMETER_TYPES, TEXT_MOST } from '@cendra/core';
import type { ParameterType } from '@cendra/core';
import { MayBeLeftOut, ProblemDto } from '../problems';

/** A parameter as far as a text needs it to be described. */
export class TextParameterDto {
  @ApiProperty() @IsString() @MaxLength(200) @Matches(PARAMETER_NAME) name!: string;
  @ApiProperty({ enum: PARAMETER_TYPES }) @IsIn(PARAMETER_TYPES) type!: ParameterType;
}

export class DescribeTextDto {
  @ApiProperty() @IsString() @MaxLength(TEXT_MOST) text!: string;
  @ApiProperty({ type: [TextParameterDto] })
  @IsArray()
  @ArrayMaxSize(500)
  @ValidateNested({ each: true })
  @Type(() => TextParameterDto)
  parameters!: TextParameterDto[];
  /** It may hold several statements, which make and change temp tables; the last one's rows are described. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsBoolean() script?: boolean;
  /** Of a script: the texts of those that run in its session before it, in their order. */
  @ApiProperty({ required: false, type: [String] })
  @MayBeLeftOut()
  @IsArray()
  @ArrayMaxSize(50)
  @IsString({ each: true })
  @MaxLength(TEXT_MOST, { each: true })
  before?: string[];
}

export class TextColumnFromDto {
  @ApiProperty() schema!: string;
  @ApiProperty() table!: string;
  @ApiProperty() column!: string;
  @ApiProperty() nullable!: boolean;
}

export class TextColumnDto {
  @ApiProperty() column!: string;
  /** The text gives it a name; else the source made one. */
  @ApiProperty() named!: boolean;
  @ApiProperty() sourceType!: string;
  @ApiProperty({ type: 'object', additionalProperties: true }) type!: object;
  @ApiProperty() looseText!: boolean;
  @ApiProperty({ required: false, type: TextColumnFromDto }) from?: TextColumnFromDto;
}

/** What a parameter meets at one of its places, in the order of its places. */
export class TextMetDto {
  @ApiProperty() name!: string;
  @ApiProperty() sourceType!: string;
  @ApiProperty({ type: 'object', additionalProperties: true }) type!: object;
}

/** What a source says of a text that was not run; where something is wrong with it, that, and no columns. */
export class DescribedTextDto {
  @ApiProperty({ type: [TextColumnDto] }) columns!: readonly TextColumnDto[];
  @ApiProperty({ type: [TextMetDto] }) met!: readonly TextMetDto[];
  @ApiProperty({ type: [ProblemDto] }) problems!: readonly ProblemDto[];
}
