import type { EvidenceLine, SideEvidence } from '@cendra/core';
import type { JoinProps } from './join-editor';

export interface SideWords {
  readonly row: string;
  readonly rows: string;
}

/** What the rows of both sides are called here. */
export function wordsOf({ join }: Pick<JoinProps, 'join'>): readonly [SideWords, SideWords] {
  const [left, right] = join.arriving;
  return [
    { row: left?.grain.row ?? 'row', rows: left?.grain.rows ?? 'rows' },
    join.step.role ?? { row: right?.grain.row ?? 'partner', rows: right?.grain.rows ?? 'partners' },
  ];
}

export const total = (values: readonly string[]) => String(values.reduce((sum, each) => sum + BigInt(each), 0n));

export function lineOf({ partners }: SideEvidence, wanted: (partners: string) => boolean): EvidenceLine {
  const some = partners.filter((each) => wanted(each.partners));
  return { rows: total(some.map((each) => each.rows)), keys: total(some.map((each) => each.keys)) };
}

export const severalOf = (side: SideEvidence): EvidenceLine => lineOf(side, (each) => each !== '1');
export const becomeOf = ({ partners }: SideEvidence) => total(partners.filter((each) => each.partners !== '1').map((each) => each.become));
