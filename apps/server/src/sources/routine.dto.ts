import { ApiProperty } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import { ArrayMaxSize, IsArray, IsString, MaxLength, MinLength } from 'class-validator';
import { MayBeLeftOut, ProblemDto, WholeNumber } from '../problems';
import { TextColumnDto } from './text.dto';

export class RoutineSearchDto {
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(200) search?: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @Type(() => Number) @WholeNumber(1, 1_000) limit?: number;
}

/** A routine is told by its signature; columns are said of one that does not say which it gives. */
export class RoutineNamedDto {
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(3_000) signature!: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(5_000) columns?: string;
}

export class RoutineSignatureDto {
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(3_000) signature!: string;
}

export class RoutineArgumentDto {
  @ApiProperty() name!: string;
  @ApiProperty() sourceType!: string;
  @ApiProperty({ type: 'object', additionalProperties: true }) type!: object;
  @ApiProperty() several!: boolean;
  @ApiProperty() collects!: boolean;
  @ApiProperty({ type: String, nullable: true }) startsAs!: string | null;
}

export class RoutineDto {
  @ApiProperty() schema!: string;
  @ApiProperty() name!: string;
  @ApiProperty() signature!: string;
  @ApiProperty({ enum: ['function', 'procedure'] }) kind!: 'function' | 'procedure';
  @ApiProperty() gives!: string;
  @ApiProperty({ type: [RoutineArgumentDto] }) arguments!: readonly RoutineArgumentDto[];
  @ApiProperty() mayWrite!: boolean;
  @ApiProperty() withOwnersRights!: boolean;
  @ApiProperty() columnsUnsaid!: boolean;
  @ApiProperty() cursors!: boolean;
  @ApiProperty() comment!: string;
  @ApiProperty() body!: string;
  /** A steward let it run although it is declared as one that may write. */
  @ApiProperty() admitted!: boolean;
}

export class RoutinesDto {
  @ApiProperty({ type: [RoutineDto] }) routines!: readonly RoutineDto[];
  @ApiProperty() total!: number;
}

/** What a source says of a call that was not made; where it cannot be made, why, and no columns. */
export class DescribedRoutineDto {
  @ApiProperty({ type: RoutineDto }) routine!: RoutineDto;
  @ApiProperty({ type: [TextColumnDto] }) columns!: readonly TextColumnDto[];
  @ApiProperty({ type: [ProblemDto] }) problems!: readonly ProblemDto[];
}

export class RoutineTextDto {
  @ApiProperty() text!: string;
}

export class AdmittedDto {
  @ApiProperty({ type: [String] })
  @IsArray()
  @ArrayMaxSize(1_000)
  @IsString({ each: true })
  @MaxLength(3_000, { each: true })
  signatures!: string[];
}
