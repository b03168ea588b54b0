import { Inject, Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { Repository } from 'typeorm';
import type { Person } from '../people';
import { refused } from '../problems';
import type { Settings } from '../settings';
import { SETTINGS } from '../settings';
import type { Source } from '../sources';
import { seal, SourcesService, unseal } from '../sources';
import { SourceKeeping } from './keeping.entity';
import type { ChangedKeepingDto, KeepingDto } from './kept-routine.dto';

/** The sign-in by which functions are made in a source, and where. */
export interface Keeper {
  readonly user: string;
  readonly secret: string;
  readonly schema: string;
}

/** Who may keep functions in which sources, and by which sign-in. Off unless a steward says so. */
@Injectable()
export class KeepingService {
  constructor(
    @InjectRepository(SourceKeeping) private readonly keepings: Repository<SourceKeeping>,
    @Inject(SETTINGS) private readonly settings: Settings,
    private readonly sources: SourcesService,
  ) {}

  async shown(person: Person, source: Source): Promise<KeepingDto> {
    const found = await this.keepings.findOneBy({ sourceId: source.id });
    const may = found?.people.includes(person.id) ?? false;
    const steward = person.role === 'steward';
    return {
      may,
      schema: may || steward ? (found?.schema ?? null) : null,
      user: steward ? (found?.user ?? null) : null,
      people: steward ? (found?.people ?? []) : [],
    };
  }

  /** Says how functions are kept. A password is kept only as long as it goes where it was given for. */
  async change(source: Source, { user, secret, schema, people }: ChangedKeepingDto): Promise<void> {
    const found = await this.keepings.findOne({ where: { sourceId: source.id }, select: SECRET_TOO });
    const goesTo = this.sources.secretGoesTo(source, user);
    if (secret === undefined && found?.goesTo !== goesTo) throw passwordNeeded();
    const sealed = secret === undefined ? found?.secret : seal(this.settings.secretKey, source.id, secret);
    if (!sealed) throw passwordNeeded();
    await this.keepings.save({ sourceId: source.id, user, secret: sealed, goesTo, schema, people: [...new Set(people)] });
  }

  async end(source: Source): Promise<void> {
    await this.keepings.delete({ sourceId: source.id });
  }

  /** The sign-in, for somebody who may; throws a ProblemException for anybody else. */
  async keeper(person: Person, source: Source): Promise<Keeper> {
    const found = await this.keepings.findOne({ where: { sourceId: source.id }, select: SECRET_TOO });
    if (!found?.people.includes(person.id))
      throw refused(
        403,
        'keeping-not-yours',
        'Functions are kept in this source by those a steward lets.',
        {},
        'a steward’s word, under Access',
      );
    if (found.goesTo !== this.sources.secretGoesTo(source, found.user))
      throw refused(
        409,
        'keeping-moved',
        'The source has moved since its password for keeping functions was given.',
        {},
        'a steward who gives it again',
      );
    return { user: found.user, schema: found.schema, secret: unseal(this.settings.secretKey, source.id, found.secret) };
  }
}

const SECRET_TOO = { sourceId: true, user: true, secret: true, goesTo: true, schema: true, people: true } as const;

const passwordNeeded = () =>
  refused(
    422,
    'password-needed',
    'A password is used only where, and for whom, it was given for.',
    { pointer: '/secret' },
    'the user’s password',
  );
