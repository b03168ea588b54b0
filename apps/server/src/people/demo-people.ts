import type { PersonRole } from './person.entity';

interface DemoPerson {
  readonly name: string;
  readonly shownName: string;
  readonly role: PersonRole;
  readonly password: string;
  /** Offered on the sign-in page; one per role. */
  readonly offered: boolean;
}

/** People of the invented cooperative. Their passwords are public and exist in demo mode only. */
export const DEMO_PEOPLE: readonly DemoPerson[] = [
  { name: 'steward', shownName: 'Ottoline Fenn', role: 'steward', password: 'thistle-steward', offered: true },
  { name: 'analyst', shownName: 'Barnaby Quill', role: 'analyst', password: 'thistle-analyst', offered: true },
  { name: 'reader', shownName: 'Petra Marsh', role: 'reader', password: 'thistle-reader', offered: true },
  { name: 'analyst2', shownName: 'Wren Alder', role: 'analyst', password: 'thistle-analyst2', offered: false },
];
