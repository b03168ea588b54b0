import type { DataSourceOptions } from 'typeorm';
import { DataSource } from 'typeorm';
import { LIMITS } from '../limits';
import { AuditEntry } from '../audit/audit-entry.entity';
import { Dataset } from '../datasets/dataset.entity';
import { LastValue } from '../datasets/last-value.entity';
import { Revision } from '../datasets/revision.entity';
import { KeptText, KeptTextVersion } from '../kept-texts/kept-text.entity';
import { AllowedAddress } from '../links/allowed-address.entity';
import { Person } from '../people/person.entity';
import { Session } from '../people/session.entity';
import { Result } from '../runs/result.entity';
import { Run } from '../runs/run.entity';
import { Source } from '../sources/source.entity';
import { SourceGrant } from '../sources/source-grant.entity';
import { Foundation1700000000000 } from './migrations/1700000000000-foundation';
import { Asks1700000001000 } from './migrations/1700000001000-asks';
import { Keeping1700000003000 } from './migrations/1700000003000-keeping';
import { Criteria1700000002000 } from './migrations/1700000002000-criteria';
import { Ground1700000004000 } from './migrations/1700000004000-ground';
import { SealsOfRevisions1700000005000 } from './migrations/1700000005000-seals-of-revisions';
import { LanguageOfResults1700000006000 } from './migrations/1700000006000-language-of-results';
import { KeptTexts1700000007000 } from './migrations/1700000007000-kept-texts';
import { KeptRoutines1700000009000 } from './migrations/1700000009000-kept-routines';
import { AllowedAddresses1700000011000 } from './migrations/1700000011000-allowed-addresses';
import { RunsOfResults1700000010000 } from './migrations/1700000010000-runs-of-results';
import { KeptRoutine } from '../kept-routines/kept-routine.entity';
import { SourceKeeping } from '../kept-routines/keeping.entity';
import { AdmittedRoutines1700000008000 } from './migrations/1700000008000-admitted-routines';

/** Cendra's own database: entities by hand, schema by migrations only. */
export function databaseOptions(url: string): DataSourceOptions {
  return {
    type: 'postgres',
    url,
    entities: [
      Person,
      Session,
      Source,
      SourceGrant,
      Dataset,
      Revision,
      LastValue,
      Run,
      Result,
      AuditEntry,
      KeptText,
      KeptTextVersion,
      SourceKeeping,
      KeptRoutine,
      AllowedAddress,
    ],
    migrations: [
      Foundation1700000000000,
      Asks1700000001000,
      Criteria1700000002000,
      Keeping1700000003000,
      Ground1700000004000,
      SealsOfRevisions1700000005000,
      LanguageOfResults1700000006000,
      KeptTexts1700000007000,
      AdmittedRoutines1700000008000,
      KeptRoutines1700000009000,
      RunsOfResults1700000010000,
      AllowedAddresses1700000011000,
    ],
    migrationsRun: true,
    synchronize: false,
  };
}

/** The same for the server at work: nobody waits for its own database without end. Migrations, which may take long, have been run. */
export function databaseAtWork(url: string): DataSourceOptions {
  const time = LIMITS.ownTime.value;
  const extra = { max: 12, connectionTimeoutMillis: time, query_timeout: time, statement_timeout: time, keepAlive: true };
  return { ...databaseOptions(url), migrationsRun: false, extra } as DataSourceOptions;
}

/** Brings the own database to the form this server has. */
export async function migrate(url: string): Promise<void> {
  const database = await new DataSource(databaseOptions(url)).initialize();
  await database.destroy();
}
