import { ApiProperty } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import { ArrayMaxSize, IsArray, IsIn, IsString, MaxLength, MinLength, ValidateNested } from 'class-validator';
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

/** What is read of a call: its rows, the values it gives back, or the rows of a cursor, counted from 1. */
export class CallResultDto {
  @ApiProperty({ enum: ['rows', 'values', 'cursor'] }) @IsIn(['rows', 'values', 'cursor']) of!: 'rows' | 'values' | 'cursor';
  @ApiProperty({ required: false }) @MayBeLeftOut() @WholeNumber(1, 100) number?: number;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(256) name?: string;
}

/** What an argument is given: a typed value, its default, or null. */
export class GivenDto {
  @ApiProperty({ enum: ['value', 'default', 'null'] }) @IsIn(['value', 'default', 'null']) by!: 'value' | 'default' | 'null';
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(10_000) value?: string;
}

/** A routine with what it is called with, in the order of its arguments; those nothing is said of have their default, or null. */
export class RoutineTriedDto extends RoutineNamedDto {
  @ApiProperty({ type: [GivenDto] })
  @IsArray()
  @ArrayMaxSize(100)
  @ValidateNested({ each: true })
  @Type(() => GivenDto)
  given!: GivenDto[];
}

/** Which result of a routine; where its columns are known only once it ran, it is called for that. */
export class RoutineResultDto extends RoutineNamedDto {
  @ApiProperty({ required: false, type: CallResultDto })
  @MayBeLeftOut()
  @ValidateNested()
  @Type(() => CallResultDto)
  result?: CallResultDto;
  @ApiProperty({ required: false, type: [GivenDto] })
  @MayBeLeftOut()
  @IsArray()
  @ArrayMaxSize(100)
  @ValidateNested({ each: true })
  @Type(() => GivenDto)
  given?: GivenDto[];
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

export class RoutineOutDto {
  @ApiProperty() name!: string;
  @ApiProperty() sourceType!: string;
  @ApiProperty({ type: 'object', additionalProperties: true }) type!: object;
  @ApiProperty() cursor!: boolean;
  @ApiProperty() at!: number;
  @ApiProperty() taken!: boolean;
}

export class RoutineDto {
  @ApiProperty() schema!: string;
  @ApiProperty() name!: string;
  @ApiProperty() signature!: string;
  @ApiProperty({ enum: ['function', 'procedure'] }) kind!: 'function' | 'procedure';
  @ApiProperty() gives!: string;
  @ApiProperty({ type: [RoutineArgumentDto] }) arguments!: readonly RoutineArgumentDto[];
  @ApiProperty({ type: [RoutineOutDto] }) outs!: readonly RoutineOutDto[];
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

/** One thing a call gave: its first rows as texts, and how many there are, where all were counted. */
export class CalledResultDto {
  @ApiProperty({ type: CallResultDto }) result!: CallResultDto;
  @ApiProperty({ type: [TextColumnDto] }) columns!: readonly TextColumnDto[];
  @ApiProperty({ type: 'array', items: { type: 'array', items: { type: 'string', nullable: true } } })
  rows!: readonly (readonly (string | null)[])[];
  @ApiProperty({ type: String, nullable: true }) count!: string | null;
}

export class SaidDto {
  @ApiProperty() severity!: string;
  @ApiProperty() text!: string;
}

/** A call that was made once and taken back; where it was not made, why. */
export class CalledOnceDto {
  @ApiProperty({ type: [CalledResultDto] }) results!: readonly CalledResultDto[];
  @ApiProperty({ type: [SaidDto] }) messages!: readonly SaidDto[];
  @ApiProperty({ type: Number, nullable: true }) ms!: number | null;
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
