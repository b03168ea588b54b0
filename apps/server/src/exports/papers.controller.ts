import { rm } from 'node:fs/promises';
import { Body, Controller, HttpCode, Post, Req, Res } from '@nestjs/common';
import { ApiProduces, ApiProperty, ApiTags } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import { IsBase64, IsIn, IsString, IsUUID, MaxLength, ValidateNested } from 'class-validator';
import type { Request, Response } from 'express';
import { AuditService } from '../audit/audit.service';
import type { HeldDatasetOf } from '../datasets';
import { HeldDataset } from '../datasets';
import type { PaperFormat } from '../engine';
import { PAPER_FORMATS } from '../engine';
import { goneOf } from '../gone';
import { Access, Held, Needs, Person, SignedInPerson } from '../people';
import { MayBeLeftOut, WholeNumber } from '../problems';
import { HeldResult } from '../runs/held-result';
import type { Result } from '../runs/result.entity';
import { ExportFilesService } from './export-files.service';
import { photographOf } from './photograph';
import { sendFile } from './send-file';

class ChartPictureDto {
  /** A JPEG, in base64. */
  @ApiProperty() @IsBase64() @MaxLength(3_000_000) picture!: string;
  /** What it shows, for who does not see it. */
  @ApiProperty() @IsString() @MaxLength(1_000) says!: string;
}

class PaperDto {
  @ApiProperty() @IsUUID() dataset!: string;
  @ApiProperty() @WholeNumber(1) revision!: number;
  @ApiProperty({ enum: PAPER_FORMATS }) @IsIn(PAPER_FORMATS) format!: PaperFormat;
  @ApiProperty() @IsString() @MaxLength(1_000) title!: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(1_000) subtitle?: string;
  /** What stands below both. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(4_000) note?: string;
  @ApiProperty({ required: false }) @MayBeLeftOut() @IsString() @MaxLength(200) name?: string;
  /** What is drawn above the lines, in formats that hold it. */
  @ApiProperty({ required: false }) @MayBeLeftOut() @ValidateNested() @Type(() => ChartPictureDto) chart?: ChartPictureDto;
}

const MEDIA: Readonly<Record<PaperFormat, string>> = {
  pdf: 'application/pdf',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  html: 'text/html; charset=utf-8',
  md: 'text/markdown; charset=utf-8',
  xml: 'application/xml; charset=utf-8',
};

@ApiTags('exports')
@Controller('results')
@Access('analyst', 'steward')
export class PapersController {
  constructor(
    private readonly files: ExportFilesService,
    private readonly audit: AuditService,
  ) {}

  /** The lines of the proof as a file to be read: groups, totals, marks and formats as they are shown. */
  @Post(':id/paper')
  @HttpCode(200)
  @Needs(HeldResult, HeldDataset)
  @ApiProduces(...Object.values(MEDIA))
  async paper(
    @SignedInPerson() person: Person,
    @Held(HeldResult) result: Result,
    @Held(HeldDataset) held: HeldDatasetOf,
    @Body() { format, title, subtitle, note, name, chart }: PaperDto,
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    const gone = goneOf(request);
    const drawn = chart && photographOf(chart.picture, chart.says);
    let file: string | undefined;
    try {
      file = await this.files.writePaper(person, result, held, format, { title, subtitle, note, drawn }, gone);
      gone.throwIfAborted();
      // Noted before the first line leaves: what was begun has been given out, however much of it was taken.
      await this.audit.note(person, 'took away', `result ${result.id}`, { format, rows: result.rows });
      await sendFile(response, { file, media: MEDIA[format], name: name ?? 'proof', ending: format, complete: result.complete }, gone);
    } catch (error) {
      // A reader who went away is no failure; there is nobody left to tell.
      if (!response.destroyed) throw error;
    } finally {
      if (file !== undefined) await rm(file, { force: true });
    }
  }
}
