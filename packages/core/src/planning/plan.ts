import type { Binding } from '../parameters';
import type { Catalogue } from '../steps';
import { kindOf } from '../steps';
import type { Column, Dialect, Relation, Site, Capability } from '../sql';
import { columnsOf, expressionsOf, inputsOf, lacking, prune } from '../sql';
import { refuse } from '../problem';
import type { CheckedTrail } from '../trail';
import { checkedStep, subTrail } from '../trail';
import { pushCriteria } from './push';

/** Rows a head run takes; the limit stands inside the statement. */
export const HEAD_ROWS = 1_000;

/** One statement's worth of work at one place. `result` names what its rows become in the combine engine. */
export interface Fragment {
  readonly site: Site;
  readonly relation: Relation;
  readonly result: string;
}

/** Fragments in the order to run them; the last one gives the rows. Plain data: it can be shown and compared. */
export interface Plan {
  readonly fragments: readonly Fragment[];
  readonly columns: readonly Column[];
}

export type DialectOf = (site: Site) => Dialect;

/** The relation the rows after a step stand for: taken fields only, everything before it merged in. */
export function relationAfter(trail: CheckedTrail, stepId: string, binding: Binding, catalogue: Catalogue = () => undefined): Relation {
  const target = checkedStep(trail, stepId);
  if (!target) refuse('step-gone', 'This step is not in the dataset any more.', { step: stepId });
  if (target.blocked) refuse('step-blocked', 'This step cannot run before its errors are mended.', { step: stepId });
  const { parameters, calendar } = trail.definition;
  const context = { parameters, calendar, catalogue, binding };
  const done = new Map<string, Relation>();
  for (const step of subTrail(trail.definition, stepId)) {
    const inputs = step.inputs.flatMap((id) => done.get(id) ?? []);
    const schemas = step.inputs.flatMap((id) => checkedStep(trail, id)?.schema ?? []);
    const [first] = inputs;
    done.set(step.id, step.off && first ? first : kindOf(step).relation(step, inputs, schemas, context));
  }
  const input = done.get(stepId);
  if (!input) throw new RangeError('a step without a relation');
  return input;
}

/** The columns handed on after a step, in their order. */
export function handedOn(trail: CheckedTrail, stepId: string): readonly Column[] {
  const fields = checkedStep(trail, stepId)?.schema.fields ?? [];
  return fields.filter((each) => !each.forUseOnly).map(({ id, name, type }) => ({ id, name, type }));
}

/** The rows of a step as a plan: chosen fields, an optional limit, cut into one fragment a site. */
export function planRows(relation: Relation, columns: readonly Column[], limit: number | undefined, dialects: DialectOf): Plan {
  const chosen: Relation = { node: 'choose', input: relation, columns };
  const pruned = prune(pushCriteria(chosen), new Set(columns.map((each) => each.id)));
  return planRelation(limit === undefined ? pruned : { node: 'limit', input: pruned, count: limit }, dialects);
}

/** Cuts a relation into fragments: neighbours of one site stay together, the rest meets in the combine engine. */
export function planRelation(relation: Relation, dialects: DialectOf): Plan {
  const fragments: Fragment[] = [];
  const cut = cutAt(relation, dialects, fragments);
  fragments.push({ site: cut.site, relation: cut.relation, result: 'rows' });
  return { fragments, columns: columnsOf(relation) };
}

interface Coloured {
  readonly site: Site;
  readonly relation: Relation;
}

function cutAt(relation: Relation, dialects: DialectOf, fragments: Fragment[]): Coloured {
  if (relation.node === 'table') return { site: relation.site, relation };
  if (relation.node === 'landed') return { site: COMBINE, relation };
  const inputs = inputsOf(relation).map((input) => cutAt(input, dialects, fragments));
  const site = commonSite(inputs.map((each) => each.site));
  if (site && claimed(relation, dialects(site)) === undefined)
    return {
      site,
      relation: withInputs(
        relation,
        inputs.map((each) => each.relation),
      ),
    };
  const missing = claimed(relation, dialects(COMBINE));
  if (missing) refuse('cannot-run', `No place can compute this exactly yet: ${missing}.`, {}, 'an expression without it');
  return {
    site: COMBINE,
    relation: withInputs(
      relation,
      inputs.map((each) => land(each, fragments)),
    ),
  };
}

const COMBINE: Site = { kind: 'combine' };

function land(input: Coloured, fragments: Fragment[]): Relation {
  if (input.site.kind === 'combine') return input.relation;
  const result = `landed ${fragments.length + 1}`;
  fragments.push({ site: input.site, relation: input.relation, result });
  return input.relation.name === undefined
    ? { node: 'landed', handle: result, columns: columnsOf(input.relation) }
    : { node: 'landed', name: input.relation.name, handle: result, columns: columnsOf(input.relation) };
}

function claimed(relation: Relation, dialect: Dialect): Capability | undefined {
  return expressionsOf(relation).flatMap((each) => lacking(dialect, each) ?? [])[0];
}

function commonSite(sites: readonly Site[]): Site | undefined {
  const [first, ...rest] = sites;
  return first && rest.every((each) => sameSite(each, first)) ? first : undefined;
}

/** A session sees its own temp tables, so it is a place of its own beside its source. */
export function sameSite(a: Site, b: Site): boolean {
  if (a.kind === 'combine' || b.kind === 'combine') return a.kind === b.kind;
  return a.kind === b.kind && a.source === b.source && (a.kind !== 'session' || b.kind !== 'session' || a.session === b.session);
}

function withInputs(relation: Relation, inputs: readonly Relation[]): Relation {
  if (relation.node === 'table' || relation.node === 'landed') return relation;
  if (relation.node === 'union') return { ...relation, inputs };
  const [input = relation.input] = inputs;
  return { ...relation, input };
}
