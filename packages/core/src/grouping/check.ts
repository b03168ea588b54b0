import { repeatedSum, typeWord } from '../fields';
import type { Parameter } from '../parameters';
import type { Problem } from '../problem';
import { warning } from '../problem';
import type { SheetField } from '../sheet';
import { linkProblems } from '../sheet';
import { beginning } from '../values';
import type { Figure, Layout, Level, Total } from './layout';
import { allLevels } from './layout';
import { withoutHeads } from './heads';
import { besidesOf } from './besides';
import { markCondition, markProblems } from './marks';
import { hasStretches } from './stretches';
import { isListed, listedValue } from './written-order';

/** The totals a layout asks for: those it names, or the sum of each measure that may be added. */
export function totalsOf(layout: Layout, fields: readonly SheetField[]): readonly Total[] {
  if (layout.totals) return layout.totals;
  return fields.flatMap((each) => {
    const total: Total = { field: each.id, aggregate: 'sum' };
    const adds = each.aggregates.includes('sum') && each.oncePer === undefined;
    return !each.forUseOnly && adds && levelOfTotal({ levels: allLevels(layout) }, total, each) !== undefined ? [total] : [];
  });
}

/** Whether a figure tells the groups of a level apart: it is allowed of its field, and adds up within such a group. */
export function ordersGroups(by: Figure, within: readonly Level[], fields: readonly SheetField[]): boolean {
  const found = fields.find((each) => each.id === by.field && !each.forUseOnly);
  if (!found?.aggregates.includes(by.aggregate)) return false;
  return levelOfTotal({ levels: within }, by, found) !== undefined;
}

/** The groups of a level stand within those before it; what stands across stands by itself. */
const withinOf = ({ levels, across }: Pick<Layout, 'levels' | 'across'>): readonly (readonly [Level, readonly Level[]])[] =>
  [levels, across?.levels ?? []].flatMap((side) => side.map((each, index) => [each, side.slice(0, index + 1)] as const));

/**
 * From which level of groups on a total is shown; 0 from the grand total on. A sum that adds up within one grouping is
 * shown in groups of one only, unless it is asked for over all; undefined where the proof has no such groups.
 */
export function levelOfTotal(
  { levels }: Pick<Layout, 'levels'>,
  { aggregate, overAll }: Total,
  field: SheetField | undefined,
): number | undefined {
  if (aggregate !== 'sum' || overAll || field?.addsUp !== 'within one grouping') return 0;
  const at = levels.findIndex((each) => each.field === field.within);
  return at < 0 ? undefined : at + 1;
}

/** What a layout asks for that the fields do not give. The proof leaves it out and says so. */
export function layoutProblems(layout: Layout, fields: readonly SheetField[], parameters: readonly Parameter[] = []): readonly Problem[] {
  const handed = (id: string) => fields.find((each) => each.id === id && !each.forUseOnly);
  const gone = (id: string, what: string) =>
    warning('proof-field-gone', `The proof ${what} a field that is not handed over.`, { field: id }, 'a field that is handed over');
  return [
    ...layout.levels.flatMap(({ field }) => (handed(field) ? [] : [gone(field, 'groups by')])),
    ...(layout.across?.levels ?? []).flatMap(({ field }) => (handed(field) ? [] : [gone(field, 'has columns of')])),
    ...allLevels(layout).flatMap(({ field, shown }) =>
      shown === undefined || handed(shown) || !handed(field) ? [] : [gone(shown, 'shows groups by')],
    ),
    ...layout.levels.flatMap(({ field, heads = [] }) =>
      heads.flatMap((each) => (handed(each) || !handed(field) ? [] : [gone(each, 'has at the head of groups')])),
    ),
    ...withinOf(layout).flatMap(([{ field, by }, within]) =>
      by && handed(field) && !ordersGroups(by, within, fields) ? [notOrdered(field, by, fields)] : [],
    ),
    ...withinOf(layout).flatMap(([level]) => notListed(level, handed(level.field))),
    ...allLevels(layout).flatMap(({ field, also }) => {
      const gone = also && also.of !== 'span' && also.of !== 'field' && !parameters.some((each) => each.id === also.parameter);
      const name = handed(field)?.name ?? 'a level';
      return gone
        ? [
            warning(
              'groups-parameter-gone',
              `The groups of ${name} without rows are those of a parameter that is gone.`,
              { field },
              'another source of them, or only groups with rows',
            ),
          ]
        : [];
    }),
    ...(layout.totals ?? []).flatMap((total) => {
      const { field, aggregate } = total;
      const found = handed(field);
      if (!found) return [gone(field, 'totals')];
      if (found.aggregates.includes(aggregate))
        return [...groupingProblems(layout, total, found, fields), ...repeatedProblems(total, found)];
      const allowed = found.aggregates.join(', ') || 'no total at all';
      return [
        warning(
          'total-unsuited',
          `The ${aggregate} of ${found.name} is not allowed: it is a ${found.role} of type ${typeWord(found.type)}.`,
          { field },
          allowed,
        ),
      ];
    }),
    ...(layout.chart && !handed(layout.chart.field) ? [gone(layout.chart.field, 'draws')] : []),
    ...linkOf(layout, fields).map((each) => ({ ...each, severity: 'warning' as const })),
    ...layout.marks.flatMap((mark) =>
      handed(mark.field) ? markProblems(mark, fields, totalsOf(layout, fields), parameters) : [gone(mark.field, 'marks')],
    ),
  ];
}

/** What is wrong with where rows lead to; whether that is allowed is told where it is known. */
const linkOf = ({ link }: Layout, fields: readonly SheetField[]): readonly Problem[] =>
  link === undefined
    ? []
    : linkProblems(
        link,
        fields.filter((each) => !each.forUseOnly),
      );

/** Values of a written order that the field cannot have. */
function notListed(level: Level, found: SheetField | undefined): readonly Problem[] {
  const unread = found && isListed(level) ? (level.listed ?? []).filter((each) => listedValue(found.type, each) === undefined) : [];
  const [first] = unread;
  if (!found || first === undefined) return [];
  const named = `“${beginning(first, 60)}”${unread.length > 1 ? ` and ${unread.length - 1} more` : ''}`;
  return [
    warning(
      'order-unread',
      `${named} in the order of ${found.name} can be no value of it, so it orders nothing.`,
      { field: level.field },
      `values of type ${typeWord(found.type)}`,
    ),
  ];
}

function notOrdered(field: string, by: Figure, fields: readonly SheetField[]): Problem {
  const name = (id: string) => fields.find((each) => each.id === id)?.name ?? 'a field that is gone';
  return warning(
    'order-unsuited',
    `The ${by.aggregate} of ${name(by.field)} does not order the groups of ${name(field)}; they stand in the order of their values.`,
    { field },
    'a figure each of them has',
  );
}

/** A sum over several rows of one, or one that no group of the proof can show. */
function groupingProblems(layout: Layout, total: Total, field: SheetField, fields: readonly SheetField[]): readonly Problem[] {
  const within = fields.find((each) => each.id === field.within)?.name ?? 'what made several rows of one';
  const place = { field: field.id };
  if (total.overAll && field.addsUp === 'within one grouping')
    return [
      warning('total-counts-twice', `The sum of ${field.name} over all rows counts each once per ${within}.`, place, `groups by ${within}`),
    ];
  return levelOfTotal({ levels: allLevels(layout) }, total, field) === undefined
    ? [
        warning(
          'total-without-grouping',
          `${field.name} adds up within one ${within} only, and the proof has no groups of it.`,
          place,
          `groups by ${within}`,
        ),
      ]
    : [];
}

/** A sum of what stands in several rows. */
const repeatedProblems = ({ aggregate }: Total, { id, name, oncePer }: SheetField): readonly Problem[] =>
  aggregate === 'sum' && oncePer !== undefined ? [repeatedSum(name, oncePer, { field: id })] : [];

/** The layout without what its fields do not give. */
export function fittingLayout(
  layout: Layout,
  fields: readonly SheetField[],
  parameters: readonly Parameter[] = [],
): Layout & { readonly totals: readonly Total[] } {
  const handed = (id: string) => fields.find((each) => each.id === id && !each.forUseOnly);
  const fit = (asked: readonly Level[], taken: readonly Level[]) =>
    asked
      .map((each) => inStretches(each, handed(each.field)))
      .filter((each, index, all) => handed(each.field) && ![...taken, ...all.slice(0, index)].some((other) => sameGroups(other, each)))
      .map((each) => called(headed(each, handed), handed))
      .map((each, index, all) => ordered(each, all.slice(0, index + 1), fields))
      .map((each) => withGroups(each, parameters));
  const levels = fit(layout.levels, []);
  const beside = fit(withoutHeads(layout.across?.levels ?? []), levels);
  const across = layout.across && beside.length > 0 ? { ...layout.across, levels: beside } : undefined;
  const { across: _asked, chart, link, ...rest } = layout;
  const leads = link !== undefined && linkOf(layout, fields).length === 0 ? { link } : {};
  const drawn = chart && levels.length > 0 && handed(chart.field)?.aggregates.includes(chart.aggregate) === true ? { chart } : {};
  const fitting = { ...rest, ...drawn, ...leads, levels, ...(across ? { across, rows: false } : {}) };
  const totals = totalsOf(layout, fields)
    .filter((each) => {
      const found = handed(each.field);
      return found?.aggregates.includes(each.aggregate) && levelOfTotal({ levels: allLevels(fitting) }, each, found) !== undefined;
    })
    .map((each) => withFitting(each, handed(each.field), across !== undefined));
  const marks = layout.marks.filter((mark) => {
    const found = handed(mark.field);
    return (
      found &&
      (mark.of === undefined || found.aggregates.includes(mark.of)) &&
      markCondition(mark, fields, parameters).expression !== undefined
    );
  });
  return { ...fitting, totals, marks };
}

/** A total with what can stand beside it of what is asked. */
function withFitting({ beside, ...total }: Total, field: SheetField | undefined, across: boolean): Total {
  const fitting = besidesOf(total, field, across).filter((each) => beside?.includes(each));
  return fitting.length === 0 ? total : { ...total, beside: fitting };
}

/** Only days lie in stretches of days. */
function inStretches(level: Level, field: SheetField | undefined): Level {
  if (!level.stretch || (field && hasStretches(field))) return level;
  const { stretch: _stretch, ...plain } = level;
  return plain;
}

/** With what is handed over of the fields at the head of its groups, and is not what they are told by anyway. */
function headed(level: Level, handed: (id: string) => SheetField | undefined): Level {
  const { heads, ...plain } = level;
  const fitting = heads?.filter((each) => handed(each) && each !== level.field && each !== level.shown) ?? [];
  return fitting.length === 0 ? plain : fitting.length === heads?.length ? level : { ...plain, heads: fitting };
}

/** By its values where it cannot be shown by another field: stretches of days have names of their own. */
function called(level: Level, handed: (id: string) => SheetField | undefined): Level {
  const { shown, ...plain } = level;
  return shown === undefined || (showsGroups(level) && handed(shown)) ? level : plain;
}

/** Whether the groups of a level can be shown by another field: by the values of one that is told to them. */
export const showsGroups = ({ field, stretch, shown }: Pick<Level, 'field' | 'stretch' | 'shown'>): boolean =>
  stretch === undefined && shown !== field;

/** Without groups it has no rows of where its first ones stand by themselves, or nothing says which they are. */
function withGroups(level: Level, parameters: readonly Parameter[]): Level {
  if (!level.also || (level.first === undefined && alsoFits(level, parameters))) return level;
  const { also: _also, ...plain } = level;
  return plain;
}

function alsoFits({ also, stretch }: Level, parameters: readonly Parameter[]): boolean {
  if (!also || also.of === 'field') return true;
  return also.of === 'span' ? stretch !== undefined : parameters.some((each) => each.id === also.parameter);
}

/** Whether two levels make the same groups. */
const sameGroups = (a: Pick<Level, 'field' | 'stretch'>, b: Pick<Level, 'field' | 'stretch'>) =>
  a.field === b.field && a.stretch === b.stretch;

/** In the order of its values where its figure does not order it. */
function ordered(level: Level, within: readonly Level[], fields: readonly SheetField[]): Level {
  if (!level.by || ordersGroups(level.by, within, fields)) return level;
  const { by: _by, ...plain } = level;
  return plain;
}
