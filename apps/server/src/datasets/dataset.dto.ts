import { ApiProperty } from '@nestjs/swagger';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsObject,
  IsString,
  IsUUID,
  MaxLength,
  MinLength,
  ValidateIf,
  ValidateNested,
} from 'class-validator';
import { Type } from 'class-transformer';
import type { FieldType } from '@cendra/core';
import { TEXT_MOST } from '@cendra/core';
import { MayBeLeftOut, ProblemDto, WholeNumber } from '../problems';
import { KeyDto, RelationDto, RoutineDto, RoutineResultDto } from '../sources';

const OfATable = () =>
  ValidateIf(({ text, calls }: { readonly text?: unknown; readonly calls?: unknown }) => text === undefined && calls === undefined);

/** The kept text a text was taken from, and in which version. */
export class FromShelfDto {
  @ApiProperty() @IsUUID() text!: string;
  @ApiProperty() @WholeNumber(1) version!: number;
}

/** A dataset begins with a table, with a text of SQL, or with a function; it is called by what it keeps unless a title is given. */
export class NewDatasetDto {
  @ApiProperty() @IsUUID() source!: string;
  @ApiProperty({ required: false }) @OfATable() @IsString() @MinLength(1) @MaxLength(256) schema!: string;
  @ApiProperty({ required: false }) @OfATable() @IsString() @MinLength(1) @MaxLength(256) table!: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(TEXT_MOST) text?: string;
  /** The text is a script: several statements of one session. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsBoolean() script?: boolean;
  @ApiProperty({ required: false, type: FromShelfDto }) @MayBeLeftOut() @ValidateNested() @Type(() => FromShelfDto) kept?: FromShelfDto;
  /** The function whose rows it is, instead. */
  @ApiProperty({ required: false, type: RoutineResultDto })
  @MayBeLeftOut()
  @ValidateNested()
  @Type(() => RoutineResultDto)
  calls?: RoutineResultDto;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(200) title?: string;
}

export class EditsDto {
  /** Minted by the sender. The same id twice is answered with the first outcome. */
  @ApiProperty() @IsString() @MinLength(8) @MaxLength(64) editId!: string;
  @ApiProperty() @WholeNumber(0) baseRevision!: number;
  @ApiProperty({ type: 'array', items: { type: 'object', additionalProperties: true } })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(500)
  @IsObject({ each: true })
  edits!: object[];
  /** The revision these edits take back, said in the history. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @WholeNumber(1) restores?: number;
}

export class DatasetLineDto {
  @ApiProperty() id!: string;
  @ApiProperty() title!: string;
  @ApiProperty() revision!: number;
  @ApiProperty() changedAt!: string;
  @ApiProperty() changedBy!: string;
  @ApiProperty() description!: string;
  @ApiProperty({ type: [String] }) tags!: readonly string[];
}

export class KnownColumnDto {
  @ApiProperty() name!: string;
  @ApiProperty() sourceType!: string;
  /** Of our closed list, as the kind of source maps its own. */
  @ApiProperty({ type: 'object', additionalProperties: true }) type!: FieldType;
  @ApiProperty() nullable!: boolean;
  @ApiProperty() looseText!: boolean;
}

/** What a source says about a table the dataset reads, at this moment. */
export class KnownTableDto {
  @ApiProperty() source!: string;
  @ApiProperty() schema!: string;
  @ApiProperty() table!: string;
  @ApiProperty({ enum: ['known', 'gone', 'unreachable'] }) state!: 'known' | 'gone' | 'unreachable';
  @ApiProperty({ type: [KnownColumnDto] }) columns!: readonly KnownColumnDto[];
  @ApiProperty({ type: [KeyDto] }) keys!: readonly KeyDto[];
  @ApiProperty({ type: [RelationDto] }) relations!: readonly RelationDto[];
  @ApiProperty({ required: false, type: ProblemDto }) problem?: ProblemDto;
}

/** What a source says about a function the dataset calls, at this moment; without an entry it has none. */
export class KnownRoutineDto {
  @ApiProperty() source!: string;
  @ApiProperty() signature!: string;
  @ApiProperty({ enum: ['known', 'gone', 'unreachable'] }) state!: 'known' | 'gone' | 'unreachable';
  @ApiProperty({ required: false, type: RoutineDto }) entry?: RoutineDto;
}

export class DatasetDto {
  @ApiProperty() id!: string;
  @ApiProperty() revision!: number;
  @ApiProperty() savedAt!: string;
  /** The definition, opaque on the wire: core reads and checks it. Null when it is broken or newer, see `problems`. */
  @ApiProperty({ type: 'object', additionalProperties: true, nullable: true }) definition!: object | null;
  /** Values are left out because the person lacks a source it reads. */
  @ApiProperty() withoutValues!: boolean;
  @ApiProperty({ type: [ProblemDto] }) problems!: readonly ProblemDto[];
}

/** What became of edits: the revision they are now. */
export class EditedDto {
  @ApiProperty() id!: string;
  @ApiProperty() revision!: number;
  @ApiProperty() savedAt!: string;
  /** Null where it is the base with just these edits applied, which the sender has. */
  @ApiProperty({ type: 'object', additionalProperties: true, nullable: true }) definition!: object | null;
}

export class RevisionDto {
  @ApiProperty() number!: number;
  /** Empty where it is withheld: it is about a source the reader lacks. */
  @ApiProperty() sentence!: string;
  @ApiProperty() withheld!: boolean;
  @ApiProperty() madeAt!: string;
  @ApiProperty() person!: string;
  /** Who asks has made it. */
  @ApiProperty() own!: boolean;
}
