import { ApiProperty } from '@nestjs/swagger';
import { ArrayMaxSize, IsArray, IsString, IsUUID, MaxLength, MinLength } from 'class-validator';
import { TEXT_MOST } from '@cendra/core';
import { MayBeLeftOut, WholeNumber } from '../problems';

const Tags = () => (target: object, key: string) => {
  IsArray()(target, key);
  ArrayMaxSize(20)(target, key);
  IsString({ each: true })(target, key);
  MinLength(1, { each: true })(target, key);
  MaxLength(40, { each: true })(target, key);
};

export class NewKeptTextDto {
  @ApiProperty() @IsUUID() source!: string;
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(200) name!: string;
  @ApiProperty() @IsString() @MaxLength(2_000) note!: string;
  @ApiProperty({ type: [String] }) @Tags() tags!: string[];
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(TEXT_MOST) text!: string;
}

/** What is said of it, and with `text` a new version. */
export class ChangedKeptTextDto {
  /** Another source it is written for. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsUUID() source?: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MinLength(1) @MaxLength(200) name?: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(2_000) note?: string;
  @ApiProperty({ required: false, type: [String] }) @MayBeLeftOut() @Tags() tags?: string[];
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MinLength(1) @MaxLength(TEXT_MOST) text?: string;
  /** The version a new text was written on; another one meanwhile is told, not overwritten. */
  @ApiProperty() @WholeNumber(1) version!: number;
}

export class SoughtDto {
  /** Part of a name, a note, a tag, or of the text itself. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(200) find?: string;
}

export class KeptTextLineDto {
  @ApiProperty() id!: string;
  @ApiProperty() name!: string;
  @ApiProperty() note!: string;
  /** The rest is withheld from who lacks its source. */
  @ApiProperty() withheld!: boolean;
  @ApiProperty({ required: false }) source?: string;
  @ApiProperty({ required: false, type: [String] }) tags?: readonly string[];
  @ApiProperty({ required: false }) version?: number;
  @ApiProperty({ required: false }) changedAt?: string;
  @ApiProperty({ required: false }) changedBy?: string;
}

export class KeptTextVersionDto {
  @ApiProperty() number!: number;
  @ApiProperty() text!: string;
  @ApiProperty() madeAt!: string;
  @ApiProperty() madeBy!: string;
}

export class KeptTextUseDto {
  /** The dataset it is used in. */
  @ApiProperty() id!: string;
  @ApiProperty() title!: string;
  /** The version that was taken there. */
  @ApiProperty() version!: number;
}

/** Another text that says much the same. */
export class AlikeTextDto {
  @ApiProperty() id!: string;
  @ApiProperty() name!: string;
  @ApiProperty() text!: string;
  /** Of what either says, the share that both do: 1 where they differ in layout and comments only. */
  @ApiProperty() share!: number;
}

export class KeptTextDto {
  @ApiProperty() id!: string;
  @ApiProperty() name!: string;
  @ApiProperty() note!: string;
  @ApiProperty() source!: string;
  @ApiProperty({ type: [String] }) tags!: readonly string[];
  @ApiProperty() version!: number;
  /** Newest first. */
  @ApiProperty({ type: [KeptTextVersionDto] }) versions!: readonly KeptTextVersionDto[];
  @ApiProperty({ type: [KeptTextUseDto] }) uses!: readonly KeptTextUseDto[];
  @ApiProperty({ type: [AlikeTextDto] }) alike!: readonly AlikeTextDto[];
}
