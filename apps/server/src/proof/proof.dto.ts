import { ApiProperty } from '@nestjs/swagger';
import { IsUUID } from 'class-validator';
import { Type } from 'class-transformer';
import { LIMITS } from '../limits';
import { ResultColumnDto } from '../runs/run.dto';
import { WholeNumber } from '../problems';

/** A result is read by the layout and the field sheet of a revision of its dataset. */
export class NewProofDto {
  @ApiProperty() @IsUUID() dataset!: string;
  @ApiProperty() @WholeNumber(1) revision!: number;
}

export class ProofDto {
  /** Names these lines among those of the result. */
  @ApiProperty() key!: string;
  @ApiProperty() lines!: number;
  /** Groups of all levels together. */
  @ApiProperty() groups!: number;
  /** The values that stand beside one another, in wire form; left out where none do. */
  @ApiProperty({ required: false, type: [String] }) across?: readonly (string | null)[];
  /** Of the cells of a line, in their order. */
  @ApiProperty({ type: [ResultColumnDto] }) columns!: readonly ResultColumnDto[];
  /** By field id, the longest text in characters or the number of the greatest size: what a width has to fit. */
  @ApiProperty({ type: 'object', additionalProperties: { type: 'string', nullable: true } }) extents!: Readonly<
    Record<string, string | null>
  >;
}

export class LinesQueryDto {
  @ApiProperty() @Type(() => Number) @WholeNumber(0) offset!: number;
  @ApiProperty() @Type(() => Number) @WholeNumber(1, LIMITS.pageRows.value) limit!: number;
}
