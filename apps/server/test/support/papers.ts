import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Cell, Definition, ProofTable } from '@cendra/core';
import { checkTrail, fittingLayout, lineReader, proofTable, reportFields } from '@cendra/core';
import type { DatasetBody, Person } from './cendra';
import { Cendra, run } from './cendra';
import { folderFor } from './cluster';
import { datasetOf, demoSource, edit, fieldOf } from './datasets';
import type { ProofBody } from './proofs';

/** A server that writes papers, and what is asked of it and read of them. */
export function papers(settings: Parameters<typeof Cendra.start>[0] = {}) {
  let cendra: Cendra;
  let analyst: Person;
  let folder: string;
  beforeAll(async () => {
    cendra = await Cendra.start(settings);
    analyst = await cendra.signIn('analyst');
    folder = folderFor('papers');
  });
  afterAll(() => cendra.stop());

  async function paper(dataset: DatasetBody, result: string, format: string, more: object = {}) {
    const response = await fetch(`${cendra.address}/api/results/${result}/paper`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie: analyst.cookie, 'x-cendra-csrf': analyst.csrf },
      body: JSON.stringify({ dataset: dataset.id, revision: dataset.revision, format, title: 'Harvests, as they were picked', ...more }),
    });
    return { status: response.status, headers: response.headers, bytes: Buffer.from(await response.arrayBuffer()) };
  }

  let files = 0;
  function pdfText(bytes: Buffer, ...options: readonly string[]): string {
    const file = join(folder, `paper ${files++}.pdf`);
    writeFileSync(file, bytes);
    return execFileSync('pdftotext', [...options, file, '-'], { encoding: 'utf8', maxBuffer: 1e9 });
  }
  function pdfFacts(bytes: Buffer): string {
    const file = join(folder, `paper ${files++}.pdf`);
    writeFileSync(file, bytes);
    return execFileSync('pdfinfo', [file], { encoding: 'utf8' });
  }

  /** A dataset of harvests that is read by floral source and grade, with its full result. */
  async function harvests(also: (definition: Definition) => readonly object[] = () => []) {
    const plain = await datasetOf(analyst, await demoSource(analyst), 'harvests', 'coop', [
      'id',
      'apiary_code',
      'picked_on',
      'kilos',
      'grade',
      'floral_source',
    ]);
    const { proof } = plain.definition;
    const [kilos, grade, source] = ['kilos', 'grade', 'floral_source'].map((column) => fieldOf(plain.definition, column));
    const levels = [source, grade].map((field) => ({ field, descending: false, subtotal: true }));
    const totals = [{ field: kilos, aggregate: 'sum' }];
    const marks = [{ id: 'm', field: kilos, operator: 'above', operands: ['30'], look: 'lettered' }];
    const dataset = await edit(
      analyst,
      plain,
      { kind: 'set proof', property: 'levels', from: proof.levels, to: levels } as never,
      { kind: 'set proof', property: 'totals', from: proof.totals, to: totals } as never,
      { kind: 'set proof', property: 'marks', from: proof.marks, to: marks } as never,
      ...(also(plain.definition) as never[]),
    );
    return { dataset, result: (await run(analyst, dataset, 'full')).result?.id ?? '' };
  }

  /** The lines as they are shown, by the table the screen has too. */
  async function linesOf({
    dataset,
    result,
  }: Awaited<ReturnType<typeof harvests>>): Promise<{ table: ProofTable; lines: ReturnType<ReturnType<typeof lineReader>>[] }> {
    const proof = await analyst.post<ProofBody>(`/results/${result}/proofs`, { dataset: dataset.id, revision: dataset.revision });
    const fields = reportFields(checkTrail(dataset.definition));
    const table = proofTable(fittingLayout(dataset.definition.proof, fields), fields, proof.across);
    const read = lineReader(proof, table.layout);
    const lines = [];
    for (let offset = 0; offset < proof.lines; offset += 500) {
      const cells = await analyst.get<readonly (readonly Cell[])[]>(
        `/results/${result}/proofs/${proof.key}/lines?offset=${offset}&limit=500`,
      );
      lines.push(...cells.map(read));
    }
    return { table, lines };
  }

  return {
    get cendra() {
      return cendra;
    },
    get analyst() {
      return analyst;
    },
    paper,
    pdfText,
    pdfFacts,
    harvests,
    linesOf,
  };
}

export const words = (text: string) => text.replaceAll(/[\s\u00a0\u202f]+/g, ' ').trim();
