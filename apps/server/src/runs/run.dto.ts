import { ApiProperty, ApiPropertyOptional, PickType } from '@nestjs/swagger';
import { IsIn, IsObject, IsString, IsUUID, Matches, MaxLength } from 'class-validator';
import { Type } from 'class-transformer';
import { LIMITS } from '../limits';
import { MayBeLeftOut, ProblemDto, WholeNumber } from '../problems';
import { SaidDto } from '../sources';
import type { RunSize, RunState } from './run.entity';

const STATES = ['waiting', 'running', 'done', 'failed', 'cancelled'] as const;

export class NewRunDto {
  @ApiProperty() @IsUUID() dataset!: string;
  @ApiProperty() @WholeNumber(1) revision!: number;
  @ApiProperty() @IsString() @MaxLength(64) step!: string;
  @ApiProperty({ enum: ['head', 'full'] }) @IsIn(['head', 'full']) size!: RunSize;
  /** By parameter id; a list of texts in wire form, empty for blank. */
  @ApiProperty({ type: 'object', additionalProperties: { type: 'array', items: { type: 'string' } } }) @IsObject() values!: Record<
    string,
    string[]
  >;
  /** Something else than the step's rows: where it failed, live rows, the frame of a value. Checked by core. */
  @ApiPropertyOptional({ type: 'object', additionalProperties: true }) @MayBeLeftOut() @IsObject() inspection?: object;
  /** A newer run of the same slot stops the older one at the source. */
  @ApiProperty() @IsString() @MaxLength(64) slot!: string;
}

export class FieldCountDto {
  @ApiProperty() field!: string;
  @ApiProperty() failed!: string;
}

export class FigureDto {
  @ApiProperty() figure!: number;
  @ApiProperty({ type: String, nullable: true }) value!: string | null;
}

export class StepCountDto {
  @ApiProperty() step!: string;
  @ApiProperty() rows!: string;
  @ApiProperty() failed!: string;
  /** Of a calculate step, for each field that can fail. */
  @ApiProperty({ type: [FieldCountDto] }) fields!: readonly FieldCountDto[];
  /** Watched figures the step has, by their place among the watched; null of no value at all. */
  @ApiProperty({ type: [FigureDto] }) figures!: readonly FigureDto[];
}

export class ResultColumnDto {
  @ApiProperty() id!: string;
  @ApiProperty() name!: string;
  @ApiProperty({ type: 'object', additionalProperties: true }) type!: object;
  /** Texts of it are longer than first rows have them, and end early. */
  @ApiProperty({ required: false }) shortened?: boolean;
}

export class SourceMomentDto {
  @ApiProperty() source!: string;
  @ApiProperty() asOf!: string;
}

/** What ran at one place, and what was moved from there. */
export class StageDto {
  @ApiProperty() result!: string;
  /** Null for the combine engine. */
  @ApiProperty({ type: String, nullable: true }) source!: string | null;
  @ApiProperty() rows!: number;
  @ApiProperty() bytes!: number;
  /** How many keys it was asked by, or `all` where there were too many. */
  @ApiProperty({ required: false, oneOf: [{ type: 'number' }, { type: 'string', enum: ['all'] }] }) keys?: number | 'all';
  /** What the source said meanwhile; left out where it said nothing. */
  @ApiProperty({ required: false, type: [SaidDto] }) said?: readonly SaidDto[];
}

export class ExpectedDto {
  @ApiProperty() step!: string;
  @ApiProperty() rows!: string;
}

export class ResultDto {
  @ApiProperty() id!: string;
  @ApiProperty({ type: [ResultColumnDto] }) columns!: readonly ResultColumnDto[];
  @ApiProperty() rows!: string;
  @ApiProperty() complete!: boolean;
  @ApiProperty({ type: String, nullable: true }) cut!: string | null;
  @ApiProperty({ type: 'object', additionalProperties: { type: 'number' } }) misfits!: Readonly<Record<string, number>>;
  /** The earliest of its sources' moments. */
  @ApiProperty() asOf!: string;
  @ApiProperty({ type: [SourceMomentDto] }) moments!: readonly SourceMomentDto[];
}

export class RunDto {
  @ApiProperty() id!: string;
  @ApiProperty() dataset!: string;
  @ApiProperty() revision!: number;
  @ApiProperty() step!: string;
  @ApiProperty({ enum: ['head', 'full'] }) size!: RunSize;
  @ApiProperty({ type: String, nullable: true }) inspection!: string | null;
  @ApiProperty({ enum: STATES }) state!: RunState;
  @ApiProperty({ type: 'object', additionalProperties: { type: 'array', items: { type: 'string' } } }) values!: Readonly<
    Record<string, readonly string[]>
  >;
  /** More rows than these are in no result: a full run that is known to have more is refused. */
  @ApiProperty() mostRows!: number;
  @ApiProperty() rowsRead!: number;
  @ApiProperty() bytesRead!: number;
  @ApiProperty({ type: [StepCountDto], nullable: true }) counts!: readonly StepCountDto[] | null;
  /** Of a criteria step; as core gives it. */
  @ApiProperty({ type: 'object', additionalProperties: true, nullable: true }) clauses!: object | null;
  @ApiProperty({ type: [StageDto], nullable: true }) stages!: readonly StageDto[] | null;
  @ApiProperty({ type: [ProblemDto] }) problems!: readonly ProblemDto[];
  @ApiProperty({ required: false }) detail?: string;
  @ApiProperty({ type: ResultDto, nullable: true }) result!: ResultDto | null;
  /** Of a run under way: rows that can be read before all are there, and no longer when it has ended. */
  @ApiProperty({ type: ResultDto, nullable: true }) firstRows!: ResultDto | null;
  /** Of a run under way: how many rows sources expect at steps that are not counted yet. */
  @ApiProperty({ type: [ExpectedDto] }) expected!: readonly ExpectedDto[];
  @ApiProperty() createdAt!: string;
  @ApiProperty({ type: Number, nullable: true }) ms!: number | null;
}

/** A run in the list of one's runs. */
export class RunLineDto extends PickType(RunDto, ['id', 'dataset', 'revision', 'step', 'size', 'state', 'createdAt', 'ms'] as const) {
  @ApiProperty() rows!: number;
  /** Why it failed. */
  @ApiProperty() told!: string;
}

export const SORT = /^[\w-]+(:(asc|desc))?(,[\w-]+(:(asc|desc))?)*$/;

export class PageQueryDto {
  @ApiProperty() @Type(() => Number) @WholeNumber(0) offset!: number;
  @ApiProperty() @Type(() => Number) @WholeNumber(1, LIMITS.pageRows.value) limit!: number;
  /** `field id` or `field id:desc`, several separated by commas. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @Matches(SORT) @MaxLength(300) sort?: string;
}

export class CellQueryDto {
  @ApiProperty() @Matches(/^\d{1,12}$/) row!: string;
  @ApiProperty() @IsString() @MaxLength(64) field!: string;
}

export class CellDto {
  @ApiProperty({ type: String, nullable: true }) text!: string | null;
  /** Characters of the whole text. */
  @ApiProperty() length!: number;
}
