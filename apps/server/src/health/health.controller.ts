import { Controller, Get, Inject } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiTags } from '@nestjs/swagger';
import { InjectDataSource } from '@nestjs/typeorm';
import { DataSource } from 'typeorm';
import { Engine } from '../engine';
import { LIMITS } from '../limits';
import { Access, NeedsNoSource } from '../people';
import { refused } from '../problems';
import { RUNS_ENGINE } from '../runs/engines';

class HealthDto {
  @ApiProperty() status!: string;
}

class LimitDto {
  @ApiProperty() name!: string;
  @ApiProperty() value!: number;
  @ApiProperty() unit!: string;
  @ApiProperty() says!: string;
}

@ApiTags('health')
@Controller()
export class HealthController {
  constructor(
    @InjectDataSource() private readonly database: DataSource,
    @Inject(RUNS_ENGINE) private readonly engine: Engine,
  ) {}

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
    return { status: 'ready' };
  }

  @Get('limits')
  @NeedsNoSource()
  @Access('steward')
  @ApiOkResponse({ type: [LimitDto] })
  limits(): LimitDto[] {
    return Object.entries(LIMITS).map(([name, { value, unit, says }]) => ({ name, value, unit, says }));
  }
}
