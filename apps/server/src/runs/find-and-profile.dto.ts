import { ApiProperty } from '@nestjs/swagger';
import { IsString, Matches, MaxLength, MinLength } from 'class-validator';
import { Type } from 'class-transformer';
import { SORT } from './run.dto';
import { MayBeLeftOut, WholeNumber } from '../problems';

export class FindQueryDto {
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(200) text!: string;
  /** Position among the sorted rows the search begins at. */
  @ApiProperty() @Type(() => Number) @WholeNumber(0) from!: number;
  @ApiProperty({ required: false }) @MayBeLeftOut() @Matches(SORT) @MaxLength(300) sort?: string;
}

export class FoundDto {
  @ApiProperty({ type: Number, nullable: true }) next!: number | null;
  @ApiProperty({ type: Number, nullable: true }) first!: number | null;
  @ApiProperty() rows!: number;
}

export class ProfileQueryDto {
  @ApiProperty() @IsString() @MaxLength(64) field!: string;
}

export class TopValueDto {
  @ApiProperty({ type: String, nullable: true }) value!: string | null;
  @ApiProperty() rows!: string;
}

export class SpreadStepDto {
  @ApiProperty() from!: string;
  @ApiProperty() until!: string;
  @ApiProperty() rows!: number;
}

export class ProfileDto {
  @ApiProperty() rows!: string;
  @ApiProperty() nulls!: string;
  /** Texts without a character. */
  @ApiProperty() empty!: string;
  @ApiProperty() distinct!: string;
  @ApiProperty({ type: String, nullable: true }) least!: string | null;
  @ApiProperty({ type: String, nullable: true }) greatest!: string | null;
  @ApiProperty({ type: String, nullable: true }) mean!: string | null;
  @ApiProperty({ type: [TopValueDto] }) top!: readonly TopValueDto[];
  @ApiProperty({ type: [SpreadStepDto] }) spread!: readonly SpreadStepDto[];
}
