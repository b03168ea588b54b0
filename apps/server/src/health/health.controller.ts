import { Controller, Get, Inject } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { InjectDataSource } from '@nestjs/typeorm';
import { DataSource } from 'typeorm';
import { Engine } from '../engine';
import { LIMITS } from '../limits';
import { Access, NeedsNoSource } from '../people';
import { refused } from '../problems';
import { RUNS_ENGINE } from '../runs/engines';
import type { Settings } from '../settings';
import { SETTINGS } from '../settings';
import { InUse } from './in-use';

const STARTED_AT = new Date().toISOString();

class HealthDto {
  @ApiProperty() status!: string;
  /** When this server was started. */
  @ApiProperty() startedAt!: string;
  /** Why the one before it ended, where it ended by itself. */
  @ApiProperty({ required: false }) endedBefore?: string;
}

class LimitDto {
  @ApiProperty() name!: string;
  @ApiProperty() value!: number;
  @ApiProperty() unit!: string;
  @ApiProperty() says!: string;
}

class UseDto {
  @ApiProperty() name!: string;
  /** Null where it could not be told in time. */
  @ApiProperty({ type: Number, nullable: true }) value!: number | null;
  @ApiProperty() unit!: string;
  @ApiProperty() says!: string;
  /** The limit on it; null where there is none of its own. */
  @ApiProperty({ type: Number, nullable: true }) most!: number | null;
}

@ApiTags('health')
@Controller()
export class HealthController {
  constructor(
    @InjectDataSource() private readonly database: DataSource,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
    private readonly inUse: InUse,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {
    inUse.add({ name: 'server', unit: 'bytes', says: 'memory of the server', now: () => process.memoryUsage.rss() });
  }

  @Get('health')
  @Access('anyone')
  @ApiOkResponse({ type: HealthDto })
  async health(): Promise<HealthDto> {
    try {
      await this.database.query('select 1');
    } catch {
      throw refused(503, 'database-away', 'Cendra’s own database does not answer.');
    }
    this.engine.start();
    const { endedBefore } = this.settings;
    return { status: 'ready', startedAt: STARTED_AT, ...(endedBefore === undefined ? {} : { endedBefore }) };
  }

  @Get('limits')
  @NeedsNoSource()
  @Access('steward')
  @ApiOkResponse({ type: [LimitDto] })
  limits(): LimitDto[] {
    return Object.entries(LIMITS).map(([name, { value, unit, says }]) => ({ name, value, unit, says }));
  }

  /** How much of what is limited is in use at this moment. */
  @Get('limits/in-use')
  @NeedsNoSource()
  @Access('steward')
  @ApiOkResponse({ type: [UseDto] })
  async used(): Promise<readonly UseDto[]> {
    return this.inUse.list();
  }
}
