import { ApiProperty, PartialType } from '@nestjs/swagger';
import { ArrayMaxSize, IsArray, IsIn, IsInt, IsOptional, IsString, IsUUID, Matches, Max, MaxLength, Min, MinLength } from 'class-validator';
import { ProblemDto } from '../problems';

const TLS = ['off', 'required', 'verified'] as const;

/** The settings of the one kind of source there is on the wire. */
export class SourceSettingsDto {
  @ApiProperty()
  @IsString()
  @MinLength(1)
  @MaxLength(255)
  @Matches(/^[^\s/]+$/, { message: 'a host name or address without blanks' })
  host!: string;
  @ApiProperty() @IsInt() @Min(1) @Max(65_535) port!: number;
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(63) database!: string;
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(63) user!: string;
  @ApiProperty({ enum: TLS }) @IsIn(TLS) tls!: (typeof TLS)[number];
}

/** The password is taken in and never given out. */
export class NewSourceDto extends SourceSettingsDto {
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(80) name!: string;
  @ApiProperty() @IsString() @Matches(/^\p{L}[\p{L}\p{N}]$/u, { message: 'two letters, or a letter and a digit' }) mark!: string;
  @ApiProperty() @IsString() @MaxLength(500) password!: string;
}

export class ChangedSourceDto extends PartialType(NewSourceDto) {}

/** Settings to try. Without a password the stored one of `source` is used, and only if host, port and user are the stored ones. */
export class TestSourceDto extends SourceSettingsDto {
  @ApiProperty({ required: false }) @IsOptional() @IsString() @MaxLength(500) password?: string;
  @ApiProperty({ required: false }) @IsOptional() @IsUUID() source?: string;
}

export class TestAnswerDto {
  @ApiProperty() ok!: boolean;
  @ApiProperty({ required: false }) user?: string;
  @ApiProperty({ required: false }) version?: string;
  @ApiProperty({ required: false }) ms?: number;
  @ApiProperty({ required: false }) tables?: number;
  @ApiProperty({ required: false, type: ProblemDto }) problem?: ProblemDto;
  @ApiProperty({ required: false }) detail?: string;
}

export class RecordedTestDto extends TestAnswerDto {
  @ApiProperty() at!: string;
  /** A setting changed since; the answer speaks of the old ones. */
  @ApiProperty() stale!: boolean;
}

export class SourceDto {
  @ApiProperty() id!: string;
  @ApiProperty() name!: string;
  @ApiProperty() mark!: string;
  @ApiProperty() kind!: string;
  /** Only for stewards. */
  @ApiProperty({ required: false, type: SourceSettingsDto }) settings?: SourceSettingsDto;
  @ApiProperty({ required: false, type: RecordedTestDto }) test?: RecordedTestDto;
}

export class SourceAccessDto {
  @ApiProperty({ type: [String] }) @IsArray() @ArrayMaxSize(10_000) @IsUUID('all', { each: true }) people!: string[];
}

export class CatalogueTableDto {
  @ApiProperty() schema!: string;
  @ApiProperty() name!: string;
  @ApiProperty() view!: boolean;
  @ApiProperty({ type: Number, nullable: true }) estimate!: number | null;
  @ApiProperty() comment!: string;
}

export class TablesDto {
  @ApiProperty({ type: [CatalogueTableDto] }) tables!: CatalogueTableDto[];
  @ApiProperty() total!: number;
}

export class DescribedColumnDto {
  @ApiProperty() name!: string;
  @ApiProperty() sourceType!: string;
  @ApiProperty() declaredType!: string;
  @ApiProperty({ type: 'object', additionalProperties: true }) type!: object;
  @ApiProperty() typeWord!: string;
  @ApiProperty() role!: string;
  @ApiProperty() nullable!: boolean;
  @ApiProperty() primaryKey!: boolean;
  @ApiProperty() foreignKey!: boolean;
  @ApiProperty() unique!: boolean;
  @ApiProperty() comment!: string;
}

export class KeyDto {
  @ApiProperty({ type: [String] }) columns!: readonly string[];
  @ApiProperty() primary!: boolean;
}

export class RelationDto {
  @ApiProperty({ enum: ['out', 'in'] }) direction!: 'out' | 'in';
  @ApiProperty({ type: [String] }) columns!: readonly string[];
  @ApiProperty() otherSchema!: string;
  @ApiProperty() otherTable!: string;
  @ApiProperty({ type: [String] }) otherColumns!: readonly string[];
}

export class DescribedTableDto {
  @ApiProperty() schema!: string;
  @ApiProperty() name!: string;
  @ApiProperty({ type: [DescribedColumnDto] }) columns!: DescribedColumnDto[];
  @ApiProperty({ type: [KeyDto] }) keys!: readonly KeyDto[];
  @ApiProperty({ type: [RelationDto] }) relations!: readonly RelationDto[];
  @ApiProperty({ type: Number, nullable: true }) estimate!: number | null;
}

export class SampleDto {
  @ApiProperty({ type: [String] }) columns!: readonly string[];
  @ApiProperty({ type: 'array', items: { type: 'array', items: { type: 'string', nullable: true } } }) rows!: readonly (readonly (
    string | null
  )[])[];
  /** When the sample was taken, by the source's clock. */
  @ApiProperty() asOf!: string;
}

export class ExactCountDto {
  @ApiProperty() rows!: string;
  @ApiProperty() asOf!: string;
}
