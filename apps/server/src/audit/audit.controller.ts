import { Controller, Get } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { Access, NeedsNoSource } from '../people';
import { AuditService } from './audit.service';

class AuditEntryDto {
  @ApiProperty() id!: string;
  @ApiProperty() at!: string;
  @ApiProperty() person!: string;
  @ApiProperty() act!: string;
  @ApiProperty() subject!: string;
}

@ApiTags('audit')
@Controller('audit')
@NeedsNoSource()
@Access('steward')
export class AuditController {
  constructor(private readonly audit: AuditService) {}

  @Get()
  @ApiOkResponse({ type: [AuditEntryDto] })
  async list(): Promise<AuditEntryDto[]> {
    const entries = await this.audit.newest(200);
    return entries.map(({ id, at, personName, act, subject }) => ({ id, at: at.toISOString(), person: personName, act, subject }));
  }
}
