import { z } from 'zod';
import { idShape as id } from '../ids';
import type { FieldId } from '../fields';
import type { Aggregate } from '../sheet';
import { AGGREGATES, LINK_MOST } from '../sheet';

/** A figure of a group: what its rows are told by. */
export interface Figure {
  readonly field: FieldId;
  readonly aggregate: Aggregate;
}

/** By which days are grouped together, of the dataset's calendar. */
export const DAY_STRETCHES = ['day', 'week', 'month', 'quarter', 'year', 'season'] as const;
export type DayStretch = (typeof DAY_STRETCHES)[number];

/**
 * Which groups a level has besides those there are rows of: every stretch of days between the first and the last; every value
 * of a parameter, and of a range every stretch in it; everything a parameter offers; every value a field has at a step.
 */
export type Also =
  | { readonly of: 'span' }
  | { readonly of: 'parameter' | 'choices'; readonly parameter: string }
  | { readonly of: 'field'; readonly step: string; readonly field: FieldId };

/** A group there may be no row of. */
export interface There {
  /** Its value in wire form. */
  readonly value: string;
  /** What it is shown by, in wire form, where that is known. */
  readonly shown?: string;
  /** Values of levels above, by their numbers from 1: it is one in those groups alone. */
  readonly within?: Readonly<Record<number, string | null>>;
}

/** One level of groups: rows of one value of the field stand together. */
export interface Level {
  readonly field: FieldId;
  /** Of days: which stretch of them is one group. Left out: each value. */
  readonly stretch?: DayStretch;
  /** The field its groups are called by, where that is another: people are told apart by number and shown by name. */
  readonly shown?: FieldId;
  /** Fields told once at the head of each of its groups, as they are the same in all its rows; none of a level across. */
  readonly heads?: readonly FieldId[];
  readonly descending: boolean;
  /** Left out: groups stand in the order of their values, or of what they are shown by. With it, in that of this figure; those without it come last. */
  readonly by?: Figure;
  /** The values whose groups come first, in their order, as texts of the wire; a figure orders them before it. */
  readonly listed?: readonly string[];
  /** So many groups stand by themselves, the first in their order; all others are one, the rest together, behind them. */
  readonly first?: number;
  /** Groups there are no rows of; left out where the first ones stand by themselves. */
  readonly also?: Also;
  /** Those, worked out when the proof is read and never kept. */
  readonly there?: readonly There[];
  /** Whether each of its groups has totals, behind what is in it. */
  readonly subtotal: boolean;
  /** They stand before what is in it. */
  readonly totalsFirst?: true;
  /** Only those that have more than one of what stands in them: rows, or groups of the next level. */
  readonly ofSeveral?: true;
}

/** What can stand beside a figure, told by that of the column before. */
export const BESIDES_ACROSS = ['difference across', 'change across'] as const;
/** The same, or told by those of the groups beside its own. */
export const BESIDES = ['share', 'difference', 'change', 'running total', 'rank', ...BESIDES_ACROSS] as const;
export type Beside = (typeof BESIDES)[number];

export interface Total extends Figure {
  /** Also over several groupings, for a measure that adds up within one: asked for on purpose. */
  readonly overAll?: true;
  /** In their order; left out where nothing stands beside it. */
  readonly beside?: readonly Beside[];
}

export const MARK_LOOKS = ['strong', 'faint', 'boxed', 'lettered', 'good', 'poor'] as const;
export type MarkLook = (typeof MARK_LOOKS)[number];

/**
 * What a mark compares with in the place of values: another field of the row, or on totals the same total of another field;
 * the average of the field in the row's group, or on totals that of the groups beside it.
 */
export type Against = { readonly of: 'field'; readonly field: FieldId } | { readonly of: 'average' };

/** Values of a field that stand out where a condition on it holds. Operators are those of criteria; operands are typed values. */
export interface Mark {
  readonly id: string;
  readonly field: FieldId;
  /** Which totals of the field it stands on, of groups and of columns per value; left out: the values of single rows. */
  readonly of?: Aggregate;
  readonly operator: string;
  readonly operands: readonly string[];
  /** In the place of values, for an operator that takes one. */
  readonly against?: Against;
  readonly look: MarkLook;
}

/** What stands where a group has no rows of a column. */
export const EMPTY_CELLS = ['blank', '0', 'a dash'] as const;
export type EmptyCells = (typeof EMPTY_CELLS)[number];

/** One column per value of a field, beside one another; with several fields, per value of each within those of the ones before. */
export interface Across {
  /** From the outermost in. Subtotals of one are a column over all that is in each of its groups; of the last there are none. */
  readonly levels: readonly Level[];
  /** Whether a column of totals over all of them stands behind them. */
  readonly total: boolean;
  /** It stands before them. */
  readonly totalsFirst?: true;
  /** Several totals stand below one another, on a line each, and not beside one another in each column. */
  readonly below?: true;
  /** Left out: blank. */
  readonly empty?: EmptyCells;
}

export const CHART_KINDS = ['bars side by side', 'bars stacked', 'lines', 'areas', 'points'] as const;
export type ChartKind = (typeof CHART_KINDS)[number];

/** One figure of each group, drawn. */
export interface Chart extends Figure {
  readonly as: ChartKind;
}

/** How the proof reads a result: which groups, what is totalled, what stands out. */
export interface Layout {
  readonly levels: readonly Level[];
  /** Left out: fields stand beside one another as they are. With it, only groups are shown. */
  readonly across?: Across;
  /** Whether single rows are shown, or only their groups. */
  readonly rows: boolean;
  readonly grandTotal: boolean;
  /** It stands before everything. */
  readonly grandTotalFirst?: true;
  /** Left out: the sum of each measure that may be added. */
  readonly totals?: readonly Total[];
  readonly marks: readonly Mark[];
  /** Left out: nothing is drawn. */
  readonly chart?: Chart;
  /** By hand, with `:{id}` where a parameter's value stands; left out: the dataset's sentence. */
  readonly title?: string;
  /** Below the title, larger than what is said; parameters and figures stand in it as in that. */
  readonly subtitle?: string;
  /** What is said below both; they stand in it as well. */
  readonly note?: string;
  /** Where a row leads to, as a field's own link: an address in which `{id}` stands for a field of the row. */
  readonly link?: string;
}

export const LAYOUT_PROPERTIES = [
  'levels',
  'across',
  'rows',
  'grandTotal',
  'grandTotalFirst',
  'totals',
  'marks',
  'chart',
  'title',
  'subtitle',
  'note',
  'link',
] as const;
export type LayoutProperty = (typeof LAYOUT_PROPERTIES)[number];

export const MOST_LEVELS = 6;
/** So many fields stand at the head of a group at most. */
export const MOST_HEADS = 10;
export const MOST_MARKS = 20;
export const MOST_ACROSS_LEVELS = 3;
/** So many values a written order lists at most. */
export const MOST_LISTED = 200;
/** So many groups at most stand by themselves where the rest is together. */
export const MOST_FIRST = 500;
/** Values beside one another at most. */
export const MOST_ACROSS = 500;
/** As many as fields can be taken: left out, every measure has its total, and taking one away names the others. */
const MOST_TOTALS = 2_000;

/** What is written by hand. */
export const LAYOUT_WORDS = ['title', 'subtitle', 'note'] as const;
export type LayoutWords = Pick<Layout, (typeof LAYOUT_WORDS)[number]>;
export const wordsOf = (layout: LayoutWords): readonly string[] => LAYOUT_WORDS.flatMap((each) => layout[each] ?? []);

/** So long are a title, a subtitle and a note at most, in characters. */
export const TITLE_MOST = 500;
export const NOTE_MOST = 2_000;

export const PLAIN_LAYOUT: Layout = { levels: [], rows: true, grandTotal: true, marks: [] };

const figureShape = { field: id, aggregate: z.enum(AGGREGATES) };
const alsoShape = z.discriminatedUnion('of', [
  z.strictObject({ of: z.literal('span') }),
  z.strictObject({ of: z.literal('parameter'), parameter: id }),
  z.strictObject({ of: z.literal('choices'), parameter: id }),
  z.strictObject({ of: z.literal('field'), step: id, field: id }),
]);

const levelShape = z.strictObject({
  field: id,
  stretch: z.enum(DAY_STRETCHES).optional(),
  shown: id.optional(),
  heads: z.array(id).min(1).max(MOST_HEADS).optional(),
  descending: z.boolean(),
  by: z.strictObject(figureShape).optional(),
  listed: z.array(z.string().min(1).max(1_000)).min(1).max(MOST_LISTED).optional(),
  first: z.int().min(1).max(MOST_FIRST).optional(),
  also: alsoShape.optional(),
  subtotal: z.boolean(),
  totalsFirst: z.literal(true).optional(),
  ofSeveral: z.literal(true).optional(),
});

export const layoutShape: z.ZodType<Layout> = z.strictObject({
  levels: z.array(levelShape).max(MOST_LEVELS),
  across: z
    .strictObject({
      levels: z.array(levelShape).min(1).max(MOST_ACROSS_LEVELS),
      total: z.boolean(),
      totalsFirst: z.literal(true).optional(),
      below: z.literal(true).optional(),
      empty: z.enum(EMPTY_CELLS).optional(),
    })
    .optional(),
  rows: z.boolean(),
  grandTotal: z.boolean(),
  grandTotalFirst: z.literal(true).optional(),
  totals: z
    .array(
      z.strictObject({
        ...figureShape,
        overAll: z.literal(true).optional(),
        beside: z.array(z.enum(BESIDES)).max(BESIDES.length).optional(),
      }),
    )
    .max(MOST_TOTALS)
    .optional(),
  marks: z
    .array(
      z.strictObject({
        id,
        field: id,
        of: z.enum(AGGREGATES).optional(),
        operator: z.string().max(40),
        operands: z.array(z.string().max(1_000)).max(1_000),
        against: z
          .discriminatedUnion('of', [z.strictObject({ of: z.literal('field'), field: id }), z.strictObject({ of: z.literal('average') })])
          .optional(),
        look: z.enum(MARK_LOOKS),
      }),
    )
    .max(MOST_MARKS),
  chart: z.strictObject({ as: z.enum(CHART_KINDS), ...figureShape }).optional(),
  title: z.string().max(TITLE_MOST).optional(),
  subtitle: z.string().max(TITLE_MOST).optional(),
  note: z.string().max(NOTE_MOST).optional(),
  link: z.string().min(1).max(LINK_MOST).optional(),
}) as z.ZodType<Layout>;

/** Whether totals stand on a line each; a single one has nothing to stand below. */
export const isBelow = ({ across, totals = [] }: Pick<Layout, 'across' | 'totals'>): boolean => across?.below === true && totals.length > 1;

/** The layout with each of its levels, down and across, as changed. */
export function withLevels<L extends Pick<Layout, 'levels' | 'across'>>(layout: L, change: (level: Level) => Level): L {
  const { across } = layout;
  return {
    ...layout,
    levels: layout.levels.map(change),
    ...(across ? { across: { ...across, levels: across.levels.map(change) } } : {}),
  };
}

/** Every level by which a figure is told apart, those down before those across. */
export const allLevels = ({ levels, across }: Pick<Layout, 'levels' | 'across'>): readonly Level[] => [
  ...levels,
  ...(across?.levels ?? []),
];
