import { ProblemException, refused } from '../problems';

/**
 * What went wrong with a source, as whoever reads from it may know it. Where it lies and who signs in there is a
 * steward's to know; they learn it by testing the source.
 */
export function toldToAll(name: string, error: unknown): unknown {
  if (!(error instanceof ProblemException)) return error;
  const [first] = error.problems;
  const aboutSettings = first?.place.pointer?.startsWith('/settings') === true || first?.place.pointer?.startsWith('/secret') === true;
  if (!first || !aboutSettings || first.code === 'own-database') return error;
  return refused(error.getStatus(), first.code, `Cendra cannot connect to ${name}.`, {}, 'a steward, who tests the source and is told why');
}
