import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { hash, verify } from '@node-rs/argon2';
import { LessThan, Repository } from 'typeorm';
import { refused } from '../problems';
import { Person } from './person.entity';
import { RightsClock } from './rights-clock';
import { Session } from './session.entity';
import { SignInTries } from './sign-in-tries';

const SESSION_HOURS = 12;

export interface SignedIn {
  readonly person: Person;
  readonly csrf: string;
}

@Injectable()
export class SignInService {
  /** Verified when the name is unknown, so that both answers take the same time. */
  private readonly decoy = hash('no such person');
  private readonly tries = new SignInTries();

  constructor(
    @InjectRepository(Person) private readonly people: Repository<Person>,
    @InjectRepository(Session) private readonly sessions: Repository<Session>,
    private readonly clock: RightsClock,
  ) {}

  /** A new session's token, or a refusal that does not say which of name and password was wrong. */
  async signIn(name: string, password: string, address: string): Promise<SignedIn & { readonly token: string }> {
    const wait = this.tries.wait(name, address);
    if (wait > 0)
      throw refused(429, 'too-many', 'Too many wrong passwords for this name.', {}, `to try again in ${Math.ceil(wait / 1_000)} s`);
    this.tries.begun(name, address);
    const person = await this.people.findOne({
      where: { name },
      select: { id: true, name: true, shownName: true, role: true, passwordHash: true },
    });
    const fits = await verify(person?.passwordHash ?? (await this.decoy), password);
    if (!person || !fits)
      throw refused(401, 'sign-in-refused', 'The name or the password is wrong.', {}, 'the name and password of a person known here');
    this.tries.succeeded(name, address);
    await this.sessions.delete({ expiresAt: LessThan(new Date()) });
    const token = randomBytes(32).toString('base64url');
    const csrf = randomBytes(18).toString('base64url');
    await this.sessions.insert({
      tokenHash: hashOf(token),
      personId: person.id,
      csrf,
      expiresAt: new Date(Date.now() + SESSION_HOURS * 3_600_000),
    });
    return { person, csrf, token };
  }

  async signOut(token: string): Promise<void> {
    await this.sessions.delete({ tokenHash: hashOf(token) });
    this.clock.moveOn();
  }

  async whoIs(token: string | undefined): Promise<SignedIn | undefined> {
    if (token === undefined || token === '') return undefined;
    const hash = hashOf(token);
    return this.clock.recall(`session ${hash}`, () => this.sessionOf(hash));
  }

  private async sessionOf(hash: string): Promise<SignedIn | undefined> {
    const session = await this.sessions
      .createQueryBuilder('session')
      .innerJoinAndSelect('session.person', 'person')
      .where('session.tokenHash = :hash and session.expiresAt > :now', { hash, now: new Date() })
      .getOne();
    return session?.person ? { person: session.person, csrf: session.csrf } : undefined;
  }
}

const hashOf = (token: string) => createHash('sha256').update(token).digest('hex');

export function sameToken(a: string, b: string): boolean {
  const [x, y] = [Buffer.from(a), Buffer.from(b)];
  return x.length === y.length && timingSafeEqual(x, y);
}
