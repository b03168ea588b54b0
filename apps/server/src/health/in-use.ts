import { Global, Injectable, Module } from '@nestjs/common';
import { LIMITS } from '../limits';

type LimitName = keyof typeof LIMITS;

const UNITS = ['runs', 'questions', 'files', 'threads', 'listeners', 'bytes'] as const;

/** Something that has a limit, or would be worth one, and how much of it is in use at this moment. */
export interface Use {
  readonly name: string;
  readonly unit: (typeof UNITS)[number];
  readonly says: string;
  readonly most?: LimitName;
  now(): number | Promise<number>;
}

export interface UseNow extends Omit<Use, 'now' | 'most'> {
  /** Null where it could not be told in time. */
  readonly value: number | null;
  readonly most: number | null;
}

/** Whoever is asked has so long, in ms: an engine that stands still is not waited for. */
const TOLD_WITHIN = 2_000;

/** What is in use now, as each part of the server says of itself. */
@Injectable()
export class InUse {
  private readonly uses: Use[] = [];

  add(...uses: readonly Use[]): void {
    this.uses.push(...uses);
  }

  /** Work first, then what it takes. */
  list(): Promise<readonly UseNow[]> {
    const sorted = this.uses.toSorted((a, b) => UNITS.indexOf(a.unit) - UNITS.indexOf(b.unit));
    return Promise.all(
      sorted.map(async ({ name, unit, says, most, now }) => ({
        name,
        unit,
        says,
        most: most === undefined ? null : LIMITS[most].value,
        value: await inTime(now),
      })),
    );
  }
}

function inTime(now: Use['now']): Promise<number | null> {
  return new Promise((resolve) => {
    const timer = setTimeout(() => resolve(null), TOLD_WITHIN);
    Promise.resolve()
      .then(now)
      .then(resolve, () => resolve(null))
      .finally(() => clearTimeout(timer));
  });
}

@Global()
@Module({ providers: [InUse], exports: [InUse] })
export class InUseModule {}
