import type { AcrossPlace } from '@cendra/core';
import type { DatasetBody, Person, ProblemBody } from './cendra';
import { Cendra, run } from './cendra';
import { demoSource } from './datasets';

/** A server for the tests of a block, an analyst signed in to it, and the demo source. */
export interface Started {
  readonly cendra: Cendra;
  readonly analyst: Person;
  readonly source: string;
}

/** Starts one before the tests of the block it is called in, and stops it after them; what it gives is there from then on. */
export function started(): Started {
  let made: Started | undefined;
  beforeAll(async () => {
    const cendra = await Cendra.start();
    const analyst = await cendra.signIn('analyst');
    made = { cendra, analyst, source: await demoSource(analyst) };
  });
  afterAll(() => made?.cendra.stop());
  const there = (): Started => {
    if (!made) throw new Error('the server is started before the tests');
    return made;
  };
  return {
    get cendra() {
      return there().cendra;
    },
    get analyst() {
      return there().analyst;
    },
    get source() {
      return there().source;
    },
  };
}

export interface ProofBody {
  readonly key: string;
  readonly lines: number;
  readonly groups: number;
  readonly across?: readonly AcrossPlace[];
  readonly columns: readonly { readonly id: string }[];
}

type Line = readonly (string | null)[];

/** The proof of a dataset that is run for it: what the server answers, and its first lines, whose cells are told by their columns. */
export async function proofOf(person: Person, dataset: DatasetBody) {
  const result = (await run(person, dataset, 'full')).result?.id ?? '';
  const asked = { dataset: dataset.id, revision: dataset.revision };
  const answer = await person.ask<ProofBody & ProblemBody>('POST', `/results/${result}/proofs`, asked);
  const { body: proof } = answer;
  const lines =
    answer.status === 200 ? await person.get<readonly Line[]>(`/results/${result}/proofs/${proof.key}/lines?offset=0&limit=500`) : [];
  // A line's number stands before its cells.
  const at = (line: Line, id: string) => line[proof.columns.findIndex((each) => each.id === id) + 1] ?? null;
  return { answer, proof, result, lines, at };
}
