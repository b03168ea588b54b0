import { ApiProperty } from '@nestjs/swagger';
import { IsObject, IsString, IsUUID, MaxLength } from 'class-validator';
import { MayBeLeftOut, WholeNumber } from '../problems';

/** A script of a dataset's. */
export class ScriptDto {
  @ApiProperty() @IsUUID() dataset!: string;
  @ApiProperty() @IsString() @MaxLength(100) step!: string;
}

export class RunScriptDto extends ScriptDto {
  @ApiProperty() @WholeNumber(1) revision!: number;
  /** By parameter id; a list of texts in wire form, empty for blank. */
  @ApiProperty({ type: 'object', additionalProperties: { type: 'array', items: { type: 'string' } } }) @IsObject() values!: Record<
    string,
    string[]
  >;
  /** The number of the statement it runs up to; left out, all of them. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @WholeNumber(1) to?: number;
}

export class EndedScriptDto {
  /** Whether there was a session to end. */
  @ApiProperty() ended!: boolean;
}
