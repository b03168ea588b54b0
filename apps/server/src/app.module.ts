import type { DynamicModule } from '@nestjs/common';
import { Module, RequestMethod } from '@nestjs/common';
import { APP_FILTER, APP_GUARD, APP_PIPE } from '@nestjs/core';
import { ThrottlerGuard, ThrottlerModule } from '@nestjs/throttler';
import { TypeOrmModule } from '@nestjs/typeorm';
import { LoggerModule } from 'nestjs-pino';
import { AuditModule } from './audit/audit.module';
import { databaseAtWork } from './database/options';
import { DatasetsModule } from './datasets/datasets.module';
import { DemoModule } from './demo/demo.module';
import { EventsModule } from './events/events.module';
import { ExportsModule } from './exports/exports.module';
import { InUseModule } from './health/in-use';
import { HealthModule } from './health/health.module';
import { KeptRoutinesModule } from './kept-routines/kept-routines.module';
import { KeptTextsModule } from './kept-texts/kept-texts.module';
import { LinksModule } from './links';
import { PeopleModule } from './people/people.module';
import { ProblemFilter, validation } from './problems';
import { ProofModule } from './proof/proof.module';
import { RunsModule } from './runs/runs.module';
import { ScriptsModule } from './scripts/scripts.module';
import type { Settings } from './settings';
import { SETTINGS } from './settings';
import { throttling } from './throttling';
import { SourcesModule } from './sources/sources.module';

/** Never logged: cookies, the change token, request bodies (they hold passwords and typed values), query strings. */
const REDACTED = ['req.headers', 'res.headers', 'req.query', 'req.params'];

@Module({})
class SettingsModule {}

@Module({})
export class AppModule {
  static with(settings: Settings): DynamicModule {
    return {
      module: AppModule,
      imports: [
        { module: SettingsModule, global: true, providers: [{ provide: SETTINGS, useValue: settings }], exports: [SETTINGS] },
        LoggerModule.forRoot({
          forRoutes: [{ path: '{*path}', method: RequestMethod.ALL }],
          pinoHttp: {
            level: settings.logLevel,
            redact: { paths: REDACTED, remove: true },
            serializers: {
              req: ({ id, method, url }: { id: unknown; method: string; url: string }) => ({ id, method, url: url.split('?')[0] }),
            },
            autoLogging: { ignore: (request) => request.url === '/api/events' },
          },
        }),
        ThrottlerModule.forRoot(throttling()),
        TypeOrmModule.forRoot(databaseAtWork(settings.database)),
        InUseModule,
        AuditModule,
        PeopleModule,
        EventsModule,
        SourcesModule,
        DatasetsModule,
        KeptTextsModule,
        LinksModule,
        KeptRoutinesModule,
        RunsModule,
        ProofModule,
        ScriptsModule,
        ExportsModule,
        HealthModule,
        DemoModule,
      ],
      providers: [
        { provide: APP_FILTER, useClass: ProblemFilter },
        { provide: APP_PIPE, useValue: validation },
        { provide: APP_GUARD, useClass: ThrottlerGuard },
      ],
    };
  }
}
