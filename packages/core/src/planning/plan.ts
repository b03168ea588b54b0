import type { Expression } from '../expressions';
import type { FieldId } from '../fields';
import { yesno } from '../fields';
import type { Column, Dialect, Relation, Site } from '../sql';
import {
  columnsOf,
  equalPairs,
  expressionsOf,
  inputsOf,
  isPlaceless,
  lacking,
  needOfNode,
  nodesOfRelation,
  prune,
  withInputs,
} from '../sql';
import { refuse } from '../problem';
import { limited } from './limit';
import { pushCriteria } from './push';

/** So many keys of one side go to the other one; with more of them all its rows are brought. */
export const KEYS_MOST = 20_000;

/** One statement's worth of work at one place. */
export interface Stage {
  /** What its rows are called where others read them; of the last stage, what they become. */
  readonly result: string;
  readonly site: Site;
  readonly relation: Relation;
  /** Results of other stages that have to be there before. */
  readonly reads: readonly string[];
  /** Its rows are asked for by keys, if there are few enough of them. */
  readonly keys?: Keys;
}

/** Keys of stage n, at most k, else all: decided when stage n has run. */
export interface Keys {
  /** The result the keys stand in, and their column there. */
  readonly of: string;
  readonly column: FieldId;
  readonly most: number;
  /** The list they are bound as in the stage's relation. */
  readonly list: string;
  /** What the stage does instead when there are more. */
  readonly all: Relation;
}

/** Stages, each behind those it reads; the last one gives the rows. Plain data: it can be shown and compared. */
export interface Plan {
  readonly stages: readonly Stage[];
  readonly columns: readonly Column[];
}

export type DialectOf = (site: Site) => Dialect;

/** The rows of a step as a plan: chosen fields, an optional limit, cut into stages. */
export function planRows(relation: Relation, columns: readonly Column[], limit: number | undefined, dialects: DialectOf): Plan {
  const chosen: Relation = { node: 'choose', input: relation, columns };
  const pruned = prune(pushCriteria(chosen), new Set(columns.map((each) => each.id)));
  if (limit === undefined) return planRelation(pruned, dialects);
  const whole = planRelation({ node: 'limit', input: pruned, count: limit }, dialects);
  // One place finds the first rows best by itself; only what is brought from several is cut on its way.
  return whole.stages.length === 1 ? whole : planRelation(limited(pruned, limit), dialects);
}

/** Cuts a relation into stages: neighbours of one site stay together, the rest meets in the combine engine. */
export function planRelation(relation: Relation, dialects: DialectOf): Plan {
  const planning = new Planning(dialects);
  const { site, relation: last, reads } = planning.cut(relation);
  return { stages: [...planning.stages, { result: 'rows', site, relation: last, reads }], columns: columnsOf(relation) };
}

/** A relation with the place its root runs at, and the results it reads there. */
interface Coloured {
  readonly site: Site;
  readonly relation: Relation;
  readonly reads: readonly string[];
}

/** The combine engine. */
export const COMBINE: Site = { kind: 'combine' };

class Planning {
  readonly stages: Stage[] = [];
  private readonly done = new Map<Relation, Coloured>();
  private readonly landed = new Map<Relation, Coloured>();

  constructor(private readonly dialects: DialectOf) {}

  /** A node that stands in several places is cut once, and so landed once. */
  cut(node: Relation): Coloured {
    const known = this.done.get(node) ?? this.coloured(node);
    this.done.set(node, known);
    return known;
  }

  private coloured(node: Relation): Coloured {
    if (node.node === 'table' || node.node === 'text') return { site: node.site, relation: node, reads: [] };
    if (node.node === 'landed') return { site: COMBINE, relation: node, reads: [node.handle] };
    if (isPlaceless(node)) return this.placeless(node);
    const inputs = inputsOf(node).map((each) => this.cut(each));
    const placed = inputsOf(node).flatMap((each, at) => (isPlaceless(each) ? [] : (inputs[at]?.site ?? [])));
    const site = commonSite(placed, inputs);
    const needed = [node, ...inputsOf(node).filter(isPlaceless).flatMap(nodesOfRelation)];
    if (site && needed.every((each) => lackingFor(each, this.dialects(site)) === undefined)) return together(site, node, inputs);
    const missing = lackingFor(node, this.dialects(COMBINE));
    if (missing) refuse('cannot-run', `No place can compute this exactly yet: ${missing}.`, {}, 'an expression without it');
    const met = (node.node === 'join' && this.byKeys(node, inputs)) || inputs.map((each) => this.land(each));
    return together(COMBINE, node, met);
  }

  /** Rows of no place can be made anywhere; by themselves they are made in the combine engine. */
  private placeless(node: Relation): Coloured {
    const missing = nodesOfRelation(node).flatMap((each) => lackingFor(each, this.dialects(COMBINE)) ?? [])[0];
    if (missing) refuse('cannot-run', `No place can compute this exactly yet: ${missing}.`, {}, 'an expression without it');
    return { site: COMBINE, relation: node, reads: [] };
  }

  /** Rows brought to the combine engine; those already there stay where they are. */
  private land(input: Coloured, keys?: Keys): Coloured {
    return input.site.kind === 'combine' ? input : this.stage(input, keys);
  }

  private stage(input: Coloured, keys?: Keys): Coloured {
    if (input.relation.node === 'landed') return input;
    const known = this.landed.get(input.relation);
    if (known) return known;
    const result = `landed ${this.stages.length + 1}`;
    const reads = keys ? [...new Set([...input.reads, keys.of])] : input.reads;
    this.stages.push({ result, site: input.site, relation: input.relation, reads, ...(keys ? { keys } : {}) });
    const { name } = input.relation;
    const relation: Relation = {
      node: 'landed',
      handle: result,
      columns: columnsOf(input.relation),
      ...(name === undefined ? {} : { name }),
    };
    const coloured = { site: COMBINE, relation, reads: [result] };
    this.landed.set(input.relation, coloured);
    return coloured;
  }

  /**
   * A join across places: rows of one side that meet none of the other are not wanted, so the other's keys can ask for
   * those that do. Undefined where every row of both sides is wanted, or nothing but equality tells which.
   */
  private byKeys(join: Relation & { node: 'join' }, [left, right]: readonly Coloured[]): readonly Coloured[] | undefined {
    if (!left || !right || join.keeps === 'both') return undefined;
    const pair = equalPairs(join).pairs.find((each) => each.left.op === 'field' && each.right.op === 'field');
    if (!pair || pair.left.op !== 'field' || pair.right.op !== 'field') return undefined;
    const leftLeads = join.keeps !== 'right' && right.site.kind !== 'combine';
    if (leftLeads) {
      const leading = this.stage(left);
      return [leading, this.fetched(right, pair.right, leading, pair.left.id)];
    }
    if (join.keeps === 'left' || left.site.kind === 'combine') return undefined;
    const leading = this.stage(right);
    return [this.fetched(left, pair.left, leading, pair.right.id), leading];
  }

  /** A side's rows whose `field` is among the keys of rows that have landed. */
  private fetched(side: Coloured, field: Expression & { op: 'field' }, leading: Coloured, column: FieldId): Coloured {
    const [of] = leading.reads;
    const list = `keys ${this.stages.length + 1}`;
    const among: Expression = { op: 'inList', type: yesno, listType: field.type, of: field, id: list };
    const relation: Relation = pushCriteria({ node: 'filter', input: side.relation, condition: among });
    const keyed = { site: side.site, relation, reads: side.reads };
    if (of === undefined || lackingFor(relation, this.dialects(side.site)) !== undefined) return this.land(side);
    return this.stage(keyed, { of, column, most: KEYS_MOST, list, all: side.relation });
  }
}

function together(site: Site, node: Relation, inputs: readonly Coloured[]): Coloured {
  return {
    site,
    relation: withInputs(
      node,
      inputs.map((each) => each.relation),
    ),
    reads: [...new Set(inputs.flatMap((each) => each.reads))],
  };
}

/** The first thing a node needs that a place does not claim to do with our meaning. */
function lackingFor(relation: Relation, dialect: Dialect): string | undefined {
  const need = needOfNode(relation);
  if (need && !dialect.capabilities.has(need)) return need;
  return expressionsOf(relation).flatMap((each) => lacking(dialect, each) ?? [])[0];
}

/**
 * The place all inputs share. A session of a source sees the source's tables too, so both run there; a text of the
 * source's does not, as a temp table of the session may have the name of a table it means.
 */
function commonSite(sites: readonly Site[], inputs: readonly Coloured[]): Site | undefined {
  const [first, ...rest] = sites;
  const common = rest.reduce<Site | undefined>((site, each) => site && siteForBoth(site, each), first);
  if (common?.kind !== 'session') return common;
  const strange = inputs.some(({ relation }) =>
    nodesOfRelation(relation).some((each) => each.node === 'text' && each.site.kind === 'source'),
  );
  return strange ? undefined : common;
}

function siteForBoth(a: Site, b: Site): Site | undefined {
  if (sameSite(a, b)) return a;
  if (a.kind === 'session' && b.kind === 'source' && a.source === b.source) return a;
  return b.kind === 'session' && a.kind === 'source' && a.source === b.source ? b : undefined;
}

/** A session sees its own temp tables, so it is a place of its own beside its source. */
export function sameSite(a: Site, b: Site): boolean {
  if (a.kind === 'combine' || b.kind === 'combine') return a.kind === b.kind;
  return a.kind === b.kind && a.source === b.source && (a.kind !== 'session' || b.kind !== 'session' || a.session === b.session);
}
