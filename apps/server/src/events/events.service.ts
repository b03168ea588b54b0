import { Injectable } from '@nestjs/common';
import { Subject } from 'rxjs';
import type { Observable } from 'rxjs';
import { filter, map } from 'rxjs';

/** Something that changed. Whoever listens is asked again at that moment whether they may know it. */
export interface CendraEvent {
  readonly kind: 'run' | 'dataset' | 'source';
  readonly body: Readonly<Record<string, unknown>>;
  /** The only person it is for; everybody signed in when absent. */
  readonly person?: string;
}

@Injectable()
export class EventsService {
  private readonly all = new Subject<CendraEvent>();

  tell(event: CendraEvent): void {
    this.all.next(event);
  }

  for(person: string): Observable<CendraEvent> {
    return this.all.pipe(
      filter((event) => event.person === undefined || event.person === person),
      map(({ kind, body }) => ({ kind, body })),
    );
  }
}
