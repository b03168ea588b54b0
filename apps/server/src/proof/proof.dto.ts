import { ApiExtraModels, ApiProperty, getSchemaPath } from '@nestjs/swagger';
import { IsUUID } from 'class-validator';
import { Type } from 'class-transformer';
import { LIMITS } from '../limits';
import { ResultColumnDto } from '../runs/run.dto';
import { MayBeLeftOut, WholeNumber } from '../problems';

/** A result is read by the layout and the field sheet of a revision of its dataset. */
export class NewProofDto {
  @ApiProperty() @IsUUID() dataset!: string;
  @ApiProperty() @WholeNumber(1) revision!: number;
}

/** What a group across is told by at one level, in wire form. */
export class AcrossKeyDto {
  @ApiProperty({ type: String, nullable: true }) value!: string | null;
  /** What it is shown by, of a level that is shown by another field. */
  @ApiProperty({ required: false, type: String, nullable: true }) shown?: string | null;
  /** It is all that is not among the first, together. */
  @ApiProperty({ required: false, enum: [true] }) rest?: true;
}

@ApiExtraModels(AcrossKeyDto)
export class ProofDto {
  /** Names these lines among those of the result. */
  @ApiProperty() key!: string;
  @ApiProperty() lines!: number;
  /** Groups of all levels together. */
  @ApiProperty() groups!: number;
  /** The values that stand beside one another, one of each level across, in their order; left out where none do. */
  @ApiProperty({ required: false, type: 'array', items: { type: 'array', items: { $ref: getSchemaPath(AcrossKeyDto) } } })
  across?: readonly (readonly AcrossKeyDto[])[];
  /** The figures of all rows that stand in the title and the note, in their order, in wire form; left out where none does. */
  @ApiProperty({ required: false, type: 'array', items: { type: 'string', nullable: true } }) figures?: readonly (string | null)[];
  /** Of the cells of a line, in their order. */
  @ApiProperty({ type: [ResultColumnDto] }) columns!: readonly ResultColumnDto[];
  /** By field id, the longest text in characters or the number of the greatest size: what a width has to fit. */
  @ApiProperty({ type: 'object', additionalProperties: { type: 'string', nullable: true } }) extents!: Readonly<
    Record<string, string | null>
  >;
}

/** A line of a proof, and one of its columns per value, of which the rows are wanted. */
export class RowsBehindAskedDto extends NewProofDto {
  /** Counted from 0. */
  @ApiProperty() @WholeNumber(0) line!: number;
  /** By how many levels its group is made. */
  @ApiProperty() @WholeNumber(0, 20) level!: number;
  /** The number of the place across, those of totals among them; left out for all of them together. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @WholeNumber(0, 2_000) place?: number;
}

/** The first rows behind a line, in the result's order, in wire form: by the fields, in theirs. */
export class RowsBehindDto {
  @ApiProperty({ type: [String] }) fields!: readonly string[];
  @ApiProperty({ type: 'array', items: { type: 'array', items: { type: 'string', nullable: true } } })
  rows!: readonly (readonly (string | null)[])[];
  /** There are more than these. */
  @ApiProperty() more!: boolean;
}

export class LinesQueryDto {
  @ApiProperty() @Type(() => Number) @WholeNumber(0) offset!: number;
  @ApiProperty() @Type(() => Number) @WholeNumber(1, LIMITS.pageRows.value) limit!: number;
}
