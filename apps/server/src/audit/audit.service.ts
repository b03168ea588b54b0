import { Injectable } from '@nestjs/common';
import { InjectRepository } from '@nestjs/typeorm';
import { Repository } from 'typeorm';
import type { Person } from '../people';
import { AuditEntry } from './audit-entry.entity';

@Injectable()
export class AuditService {
  constructor(@InjectRepository(AuditEntry) private readonly entries: Repository<AuditEntry>) {}

  /** Notes who did what to what. `detail` never holds secrets or values typed into datasets. */
  async note(person: Person, act: string, subject: string, detail: Record<string, unknown> = {}): Promise<void> {
    await this.entries.insert({ personId: person.id, personName: person.name, act, subject, detail: detail as never, at: new Date() });
  }

  newest(limit: number): Promise<AuditEntry[]> {
    return this.entries.find({ order: { id: 'DESC' }, take: limit });
  }
}
