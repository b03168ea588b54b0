import { ApiExtraModels, ApiProperty, getSchemaPath, OmitType, PartialType, PickType } from '@nestjs/swagger';
import { ArrayMaxSize, IsArray, IsIn, IsObject, IsString, IsUUID, Matches, MaxLength, MinLength } from 'class-validator';
import { MayBeLeftOut, ProblemDto } from '../problems';
import { SETTINGS_OF_KINDS, SOURCE_KINDS } from './connectors/registry';

/** Settings of any kind; what they hold is checked by the connector of that kind. */
const ofAnyKind = { oneOf: SETTINGS_OF_KINDS.map((each) => ({ $ref: getSchemaPath(each) })) };

/** The secret, such as a password, is taken in and never given out. */
@ApiExtraModels(...SETTINGS_OF_KINDS)
export class NewSourceDto {
  @ApiProperty() @IsString() @MinLength(1) @MaxLength(80) name!: string;
  @ApiProperty() @IsString() @Matches(/^\p{L}[\p{L}\p{N}]$/u, { message: 'two letters, or a letter and a digit' }) mark!: string;
  @ApiProperty({ enum: SOURCE_KINDS }) @IsIn(SOURCE_KINDS) kind!: string;
  @ApiProperty(ofAnyKind) @IsObject() settings!: object;
  @ApiProperty() @IsString() @MaxLength(500) secret!: string;
}

/** A source stays of its kind. Settings that are not given stay as they are. */
export class ChangedSourceDto extends PartialType(OmitType(NewSourceDto, ['kind']), { skipNullProperties: false }) {}

/** Settings to try. Without a secret the stored one of `source` is used, and only if it would go where it was given for. */
export class TestSourceDto extends PickType(NewSourceDto, ['kind', 'settings']) {
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(500) secret?: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsUUID() source?: string;
}

export class TestAnswerDto {
  @ApiProperty() ok!: boolean;
  @ApiProperty({ required: false }) user?: string;
  @ApiProperty({ required: false }) server?: string;
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
  @ApiProperty({ enum: SOURCE_KINDS }) kind!: string;
  /** Only for stewards. */
  @ApiProperty({ required: false, ...ofAnyKind }) settings?: object;
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
  @ApiProperty() looseText!: boolean;
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
