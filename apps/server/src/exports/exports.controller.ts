import { rm } from 'node:fs/promises';
import { Controller, Get, Query, Req, Res } from '@nestjs/common';
import { ApiProduces, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsIn, IsString, IsUUID, MaxLength, ValidateIf } from 'class-validator';
import { Type } from 'class-transformer';
import type { Request, Response } from 'express';
import { AuditService } from '../audit/audit.service';
import { reportFields } from '@cendra/core';
import { DatasetRights } from '../datasets';
import { FILE_FORMATS } from '../engine';
import { goneOf } from '../gone';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import { Planner, subjectOf } from '../planning';
import { MayBeLeftOut, refused, WholeNumber } from '../problems';
import { HeldResult } from '../runs/held-result';
import type { Result } from '../runs/result.entity';
import { ExportFilesService } from './export-files.service';
import { fileName, sendFile } from './send-file';
import { plainColumns, sheetColumns } from './written-columns';

/** The rows themselves, or what they are. */
const TAKEN = [...FILE_FORMATS, 'metadata'] as const;
type Taken = (typeof TAKEN)[number];

class TakeAwayQueryDto {
  @ApiProperty({ enum: TAKEN }) @IsIn(TAKEN) format!: Taken;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(200) name?: string;
  /** The dataset whose field sheet at the revision says which fields go out, under which names and in which formats. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsUUID() dataset?: string;
  @ApiProperty({ required: false })
  @ValidateIf((each: TakeAwayQueryDto) => each.dataset !== undefined)
  @Type(() => Number)
  @WholeNumber(1)
  revision?: number;
  /** What the rows are, in words; stands on the further sheet of a spreadsheet. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(1_000) title?: string;
}

const MEDIA: Readonly<Record<Taken, string>> = {
  csv: 'text/csv; charset=utf-8',
  json: 'application/json',
  metadata: 'application/csvm+json',
  ndjson: 'application/x-ndjson',
  parquet: 'application/vnd.apache.parquet',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
};

@ApiTags('exports')
@Controller('results')
@Access('analyst', 'steward')
@Needs(HeldResult)
export class ExportsController {
  constructor(
    private readonly rights: DatasetRights,
    private readonly files: ExportFilesService,
    private readonly audit: AuditService,
    private readonly planner: Planner,
  ) {}

  /** The whole stored result as a file, or what its rows are, streamed. The header `x-cendra-complete` says whether rows are missing from it. */
  @Get(':id/file')
  @ApiProduces(...Object.values(MEDIA))
  async file(
    @SignedInPerson() person: Person,
    @Held(HeldResult) result: Result,
    @Query() query: TakeAwayQueryDto,
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    const gone = goneOf(request);
    const columns = await this.columnsOf(person, result, query, gone);
    if (columns.length === 0)
      throw refused(
        422,
        'nothing-handed-over',
        'No field of this result is handed over.',
        {},
        'at least one field that is not for use only',
      );
    const { format } = query;
    let file: string | undefined;
    try {
      const [name, title] = [query.name ?? 'rows', query.title ?? query.name ?? ''];
      file =
        format === 'metadata'
          ? await this.files.writeMetadata(person, result, columns, title, fileName(name, 'csv'))
          : await this.files.write(person, result, format, columns, title, gone);
      gone.throwIfAborted();
      // Noted before the first row leaves: what was begun has been given out, however much of it was taken.
      await this.audit.note(person, 'took away', `result ${result.id}`, { format, rows: result.rows });
      const ending = format === 'metadata' ? 'csv-metadata.json' : format;
      await sendFile(response, { file, media: MEDIA[format], name, ending, complete: result.complete }, gone);
    } catch (error) {
      // A reader who went away is no failure; there is nobody left to tell.
      if (!response.destroyed) throw error;
    } finally {
      if (file !== undefined) await rm(file, { force: true });
    }
  }

  /** As a dataset's field sheet says, for who holds that dataset; else as the rows are. */
  private async columnsOf(person: Person, result: Result, { dataset, revision }: TakeAwayQueryDto, signal: AbortSignal) {
    if (dataset === undefined) return plainColumns(result.columns);
    const { definition } = await this.rights.hold(person, dataset, revision ?? 1);
    return sheetColumns(result.columns, reportFields(await this.planner.outline(subjectOf(definition, []), signal)));
  }
}
