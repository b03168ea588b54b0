import { ApiProperty } from '@nestjs/swagger';
import { ArrayMaxSize, IsArray, IsObject, IsString, IsUUID, Matches, MaxLength, MinLength } from 'class-validator';
import { MayBeLeftOut, ProblemDto, WholeNumber } from '../problems';

/** How functions are kept in a source, as a steward says it. A password that is left out stays as it is. */
export class ChangedKeepingDto {
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(63) user!: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MinLength(1) @MaxLength(1_000) secret?: string;
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(63) schema!: string;
  @ApiProperty({ type: [String] }) @IsArray() @ArrayMaxSize(1_000) @IsUUID(undefined, { each: true }) people!: string[];
}

/** Whether this person may keep functions here, and in which schema; the rest is for stewards. */
export class KeepingDto {
  @ApiProperty() may!: boolean;
  @ApiProperty({ type: String, nullable: true }) schema!: string | null;
  @ApiProperty({ type: String, nullable: true }) user!: string | null;
  @ApiProperty({ type: [String] }) people!: readonly string[];
}

/** A text or script of a dataset, and what it is to be called as a function. */
export class RoutineToKeepDto {
  @ApiProperty() @IsUUID() dataset!: string;
  @ApiProperty() @WholeNumber(1) revision!: number;
  @ApiProperty() @IsString() @MaxLength(100) step!: string;
  @ApiProperty()
  @IsString()
  @MaxLength(63)
  @Matches(/^[a-z_][a-z0-9_]*$/, { message: 'small letters, digits and _, beginning with a letter' })
  name!: string;
}

export class KeepRoutineDto extends RoutineToKeepDto {
  /** The statement that was shown; another one is not run. */
  @ApiProperty() @IsString() @MaxLength(600_000) statement!: string;
  /** For each of these values of the parameters, by id, the rows of both are compared. */
  @ApiProperty({ type: 'array', items: { type: 'object', additionalProperties: { type: 'array', items: { type: 'string' } } } })
  @IsArray()
  @ArrayMaxSize(50)
  @IsObject({ each: true })
  values!: Record<string, string[]>[];
}

export class RoutinePreviewDto {
  @ApiProperty() statement!: string;
  @ApiProperty() signature!: string;
  /** The text of the function it would take the place of; null where there is none. */
  @ApiProperty({ type: String, nullable: true }) existing!: string | null;
  @ApiProperty({ type: [ProblemDto] }) problems!: readonly ProblemDto[];
}

/** For some values, how many rows both gave, and whether they are the same. */
export class ComparedDto {
  @ApiProperty() rowsOfText!: string;
  @ApiProperty() rowsOfRoutine!: string;
  @ApiProperty() same!: boolean;
}

export class RoutineKeptDto {
  @ApiProperty() signature!: string;
  /** In the order of the values. */
  @ApiProperty({ type: [ComparedDto] }) compared!: readonly ComparedDto[];
  /** What kept it from being compared. */
  @ApiProperty({ type: [ProblemDto] }) problems!: readonly ProblemDto[];
}

export class RoutineMadeDto {
  @ApiProperty() statement!: string;
  @ApiProperty({ type: String, nullable: true }) replaced!: string | null;
  @ApiProperty() dataset!: string;
  @ApiProperty() madeBy!: string;
  @ApiProperty() madeAt!: string;
}
