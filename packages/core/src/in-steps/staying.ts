import type { Field } from '../fields';
import { fieldById, freeName } from '../fields';
import type { SyntaxTree } from '../statements';
import { listOf, membersOf, namesOf } from '../statements';
import type { Given, Query } from './from';
import { columnsNamed } from './from';
import { halfJoinOf } from './half-joins';
import { nameOfOutput, shapeOf } from './outputs';
import type { Members } from './speech';
import type { SelectPart, Unsaid } from './unsaid';
import type { SelectWords } from './words';

/** Why a part of a select stays SQL, with its words. */
export interface StaysFor {
  readonly words: string;
  readonly why: Unsaid;
}

/** A select of which some parts stay SQL. */
export interface Staying {
  readonly select: Members;
  readonly words: SelectWords;
  /** Its conditions that are joined by `and`. */
  readonly conditions: readonly SyntaxTree[];
  /** What its windows are ordered and told apart by. */
  readonly windows: readonly SyntaxTree[];
  readonly stays: ReadonlyMap<SelectPart, Unsaid>;
  slice(span: { readonly from: number; readonly to: number }): string;
  stay(sql: string, because: readonly StaysFor[]): Query;
}

export interface Stayed extends Given {
  /** Conditions that are still to be said. */
  readonly left: readonly SyntaxTree[];
  /** The fields in which the parts that stay come, by their shapes. */
  readonly kept: ReadonlyMap<string, Field>;
}

/**
 * What a select reads, joined as the text joins it, as a statement of its own: with the columns that are asked for behind it,
 * and the parts that stay computed beside them. Throws why it is needed where the text cannot be taken apart so.
 */
export function sayStaying(of: Staying): Stayed {
  const { select, words, conditions, stays } = of;
  const written = listOf(select.targetList);
  const groups = listOf(select.groupClause);
  const fits = words.targets.length === written.length && words.where.length === conditions.length && words.groups.length === groups.length;
  const [why] = stays.values();
  if (!fits || !words.from || !why || written.some(isStar)) throw why ?? new RangeError('nothing stays SQL');
  // Conditions of a list of tables may join them, and those with a query within look at names of their own.
  const all = listOf(select.fromClause).length > 1;
  const staying = conditions.map((each, at) => all || stays.has(`where ${at}`) || halfJoinOf(each) !== undefined);
  const names = new Set<string>();
  const nameFor = (wanted: string) => {
    const name = freeName(wanted || 'part', names);
    names.add(name);
    return name;
  };
  const behind = conditions.filter((_each, at) => !staying[at]);
  const needed = columnsBehind(of, behind).map((column) => ({ column, name: nameFor(column.at(-1) ?? '') }));
  const parts = [
    ...written.map((each, at) => ({
      part: `target ${at}` as const,
      tree: membersOf(each, 'ResTarget')?.val,
      span: words.targets[at],
      alias: membersOf(each, 'ResTarget')?.name,
    })),
    ...groups.map((tree, at) => ({ part: `group ${at}` as const, tree, span: words.groups[at], alias: undefined })),
  ]
    .filter(({ part }) => stays.has(part))
    .map(({ tree, span, alias }) => ({ tree, text: withoutAlias(span ? of.slice(span) : '', alias), name: nameFor(nameOfOutput(tree)) }));
  const columns = [
    ...needed.map(({ column, name }) => `${column.map(quotedName).join('.')} as ${quotedName(name)}`),
    ...parts.map(({ text, name }) => `${text} as ${quotedName(name)}`),
  ];
  const where = words.where.filter((_each, at) => staying[at]).map(of.slice);
  const sql = [
    `select ${columns.join(', ')}`,
    `from ${of.slice(words.from)}`,
    ...(where.length > 0 ? [`where ${where.join('\n  and ')}`] : []),
  ].join('\n');
  const given = of.stay(
    sql,
    [...stays].map(([part, reason]) => ({ words: wordsOf(of, part), why: reason })),
  );
  const fieldAt = (at: number) => given.columns[at]?.field ?? '';
  const read = (alias: string | undefined) =>
    needed.flatMap(({ column }, at) => (column.at(-2) === alias ? [{ name: column.at(-1) ?? '', field: fieldAt(at) }] : []));
  const aliases = [...new Set(needed.flatMap(({ column }) => column.at(-2) ?? []))];
  return {
    rows: given.rows,
    names: { reads: aliases.map((alias) => ({ alias, columns: read(alias) })), merged: read(undefined) },
    left: behind,
    kept: new Map(
      parts.flatMap(({ tree }, at) => {
        const field = fieldById(given.rows.arriving.schema, fieldAt(needed.length + at));
        return field ? [[shapeOf(tree), field] as const] : [];
      }),
    ),
  };
}

/** The columns that what is said in steps asks for. */
function columnsBehind({ select, stays, windows }: Staying, conditions: readonly SyntaxTree[]): readonly (readonly string[])[] {
  const { targetList, groupClause, havingClause, sortClause, distinctClause } = select;
  const written = listOf(targetList);
  const called = new Set(written.flatMap((each) => membersOf(each, 'ResTarget')?.name ?? []));
  const asked: readonly (SyntaxTree | undefined)[] = [
    ...conditions,
    ...written.filter((_each, at) => !stays.has(`target ${at}`)),
    ...listOf(groupClause).filter((_each, at) => !stays.has(`group ${at}`)),
    havingClause,
    sortClause,
    distinctClause,
    ...windows,
  ];
  const byName = new Map<string, readonly string[]>();
  for (const names of asked.flatMap(columnsNamed)) {
    const alias = names.length === 1 && called.has(names[0] ?? '') && !written.some((each) => isColumn(each, names));
    if (!alias) byName.set(names.join('.'), names);
  }
  return [...byName.values()];
}

function wordsOf({ words: { targets, where, groups, from }, slice }: Staying, part: SelectPart): string {
  const [kind, at] = part.split(' ');
  const span = kind === 'from' ? from : (kind === 'target' ? targets : kind === 'where' ? where : groups)[Number(at)];
  return span ? slice(span) : '';
}

/** Whether a target is `*`, or `alias.*`. */
export const isStar = (target: SyntaxTree): boolean =>
  listOf(membersOf(membersOf(target, 'ResTarget')?.val, 'ColumnRef')?.fields).some((each) => membersOf(each, 'A_Star') !== undefined);

const isColumn = (target: SyntaxTree, names: readonly string[]) => {
  const { name, val } = membersOf(target, 'ResTarget') ?? {};
  return name === undefined && namesOf(membersOf(val, 'ColumnRef')?.fields).join('.') === names.join('.');
};

const quotedName = (name: string) => (/^[a-z_][a-z0-9_]*$/.test(name) ? name : `"${name.replaceAll('"', '""')}"`);

/** A target as it is written, without the name behind it. */
function withoutAlias(text: string, alias: SyntaxTree | undefined): string {
  return typeof alias === 'string' ? text.replace(/\s+(?:as\s+)?(?:"(?:[^"]|"")*"|[\p{L}_][\p{L}\p{N}_$]*)$/iu, '') : text;
}
