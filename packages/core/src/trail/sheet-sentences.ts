import type { Across, Chart, Layout, Level, Mark, Total } from '../grouping';
import { againstWords } from '../grouping';
import type { Format } from '../sheet';
import { equal } from './equal';
import type { Edit } from './edits';

/** What an edit of the field sheet did to a field, in words. */
export function sheetSentence({ property, from, to }: Edit & { kind: 'set sheet' }, field: string): string {
  const unset = to === undefined;
  switch (property) {
    case 'name':
      return unset ? `hands ${field} over by its own name` : `hands ${field} over as ${String(to)}`;
    case 'label':
      return unset ? `took the label off ${field}` : `labelled ${field} “${String(to)}”`;
    case 'description':
      return unset ? `emptied the description of ${field}` : `described ${field}`;
    case 'role':
      return unset ? `gave ${field} the role it came with` : `made ${field} a ${String(to)}`;
    case 'addsUp':
      return unset ? `lets ${field} add up over everything` : `lets ${field} add up ${String(to)}`;
    case 'lastBy':
      return unset ? `took away the date that says which ${field} is last` : `chose the date that says which ${field} is last`;
    case 'aggregates':
      return unset ? `allows every total of ${field}` : `allows of ${field}: ${(to as readonly string[]).join(', ') || 'no total'}`;
    case 'format':
      return unset ? `writes ${field} as usual` : `writes ${field} ${formatWords(from as Format | undefined, to as Format)}`;
    case 'link':
      return unset ? `lets ${field} lead nowhere` : `lets ${field} lead to an address`;
    case 'forUseOnly':
      return to === true ? `keeps ${field} for use only` : `hands ${field} over`;
  }
}

/** The parts of a format that are not as they were, so that two changes of one pattern read differently. */
function formatWords(from: Format | undefined, to: Format): string {
  const words = [
    ...(from?.pattern === to.pattern ? [] : [`as ${to.pattern}`]),
    ...(from?.currency === to.currency ? [] : [to.currency === undefined ? 'without a currency' : `with ¤ as ${to.currency}`]),
    ...(from?.unit === to.unit ? [] : [to.unit === undefined ? 'without a unit' : `in ${to.unit}`]),
  ];
  return words.join(', ') || `as ${to.pattern}`;
}

/** What an edit of the proof did, in words. */
export function proofSentence({ property, from, to }: Edit & { kind: 'set proof' }, nameOf: (id: string) => string): string {
  switch (property) {
    case 'levels':
      return levelsSentence(from as readonly Level[], to as readonly Level[], nameOf);
    case 'across':
      return acrossSentence(from as Across | undefined, to as Across | undefined, nameOf);
    case 'rows':
      return to === true ? 'shows single rows in the proof' : 'shows only groups in the proof';
    case 'grandTotal':
      return to === true ? 'shows the grand total' : 'leaves the grand total out';
    case 'grandTotalFirst':
      return to === true ? 'has the grand total before everything' : 'has the grand total behind everything';
    case 'totals': {
      const totals = to as Layout['totals'];
      return totals
        ? `totals ${totals.map((each: Total) => `${each.aggregate} of ${nameOf(each.field)}`).join(', ') || 'nothing'}`
        : 'totals what may be added';
    }
    case 'chart': {
      const chart = to as Chart | undefined;
      return chart ? `draws the ${chart.aggregate} of ${nameOf(chart.field)} as ${chart.as}` : 'draws nothing in the proof any more';
    }
    case 'title':
      return to === undefined ? 'titles the proof with the dataset’s sentence' : 'titles the proof by hand';
    case 'subtitle':
      return to === undefined ? 'takes the subtitle of the proof away' : 'writes a subtitle of the proof';
    case 'note':
      return to === undefined ? 'takes the note of the proof away' : 'writes a note below the title of the proof';
    case 'link':
      return to === undefined ? 'lets rows of the proof lead nowhere' : 'lets rows of the proof lead to an address';
    case 'marks':
      return marksSentence(from as readonly Mark[], to as readonly Mark[], nameOf);
  }
}

function levelsSentence(from: readonly Level[], to: readonly Level[], nameOf: (id: string) => string): string {
  if (to.length === 0) return 'groups the proof by nothing';
  if (!sameGroups(from, to)) return `groups the proof by ${groupsWords(to, nameOf)}`;
  return changedLevels(from, to, nameOf);
}

function acrossSentence(from: Across | undefined, to: Across | undefined, nameOf: (id: string) => string): string {
  if (!to) return 'has no columns per value in the proof any more';
  if (!from || !sameGroups(from.levels, to.levels)) return `has one column per ${groupsWords(to.levels, nameOf)} in the proof`;
  if (from.below !== to.below) return `has totals of the proof ${to.below ? 'below' : 'beside'} one another`;
  if (from.empty !== to.empty) return `shows ${to.empty ?? 'blank'} where a column has no rows`;
  if (from.total !== to.total) return `${to.total ? 'shows' : 'leaves out'} the total over the columns`;
  if (from.totalsFirst !== to.totalsFirst) return `has the totals over everything ${to.totalsFirst ? 'before' : 'behind'} the columns`;
  return changedLevels(from.levels, to.levels, nameOf);
}

function sameGroups(from: readonly Level[], to: readonly Level[]): boolean {
  const groups = (levels: readonly Level[]) => levels.map(({ field, stretch }) => [field, stretch ?? '']);
  return equal(groups(from), groups(to));
}

const groupsWords = (levels: readonly Level[], nameOf: (id: string) => string) =>
  levels.map((each) => groupWords(each, nameOf)).join(', then ');

function changedLevels(from: readonly Level[], to: readonly Level[], nameOf: (id: string) => string): string {
  const changed = to.filter((each, index) => !equal(each, from[index]));
  return changed
    .map((level) => {
      const { field, subtotal, ofSeveral, totalsFirst, first } = level;
      const before = from.find((each) => each.field === field);
      if (before && !equal(before.also ?? null, level.also ?? null))
        return level.also ? `shows groups of ${nameOf(field)} also without rows` : `shows only groups of ${nameOf(field)} with rows`;
      if (before && before.shown !== level.shown)
        return `shows ${nameOf(field)} by ${level.shown === undefined ? 'its values' : nameOf(level.shown)}`;
      if (before && !equal(before.heads ?? [], level.heads ?? []))
        return `has ${level.heads?.map(nameOf).join(' and ') ?? 'nothing else'} at the head of the groups of ${nameOf(field)}`;
      if (before && before.first !== first)
        return first === undefined
          ? `shows all groups of ${nameOf(field)}`
          : `shows the first ${first} of ${nameOf(field)}, the rest together`;
      if (before && before.totalsFirst !== totalsFirst && before.subtotal === subtotal)
        return `has subtotals per ${nameOf(field)} ${totalsFirst ? 'before' : 'behind'} what is in its groups`;
      if (before?.subtotal !== subtotal || before.ofSeveral !== ofSeveral)
        return `${subtotal ? 'shows' : 'leaves out'} subtotals per ${nameOf(field)}${subtotal && ofSeveral ? ' where there is more than one' : ''}`;
      return `orders ${nameOf(field)} ${orderWords(level, nameOf)}`;
    })
    .join(' and ');
}

/** “month of picked_on”, or the field alone. */
const groupWords = ({ field, stretch }: Pick<Level, 'field' | 'stretch'>, nameOf: (id: string) => string) =>
  stretch ? `${stretch} of ${nameOf(field)}` : nameOf(field);

function orderWords({ by, descending, listed = [] }: Pick<Level, 'by' | 'descending' | 'listed'>, nameOf: (id: string) => string): string {
  if (!by && listed.length > 0) return `as ${listed.slice(0, 4).join(', ')}${listed.length > 4 ? ' …' : ''}`;
  if (!by) return descending ? 'downwards' : 'upwards';
  return `by the ${by.aggregate} of ${nameOf(by.field)}, ${descending ? 'most' : 'least'} first`;
}

function marksSentence(from: readonly Mark[], to: readonly Mark[], nameOf: (id: string) => string): string {
  const words = ({ field, operator, operands, look, of, against }: Mark) => {
    const others = against ? againstWords({ of, against }, nameOf) : operands.join(', ');
    return `${nameOf(field)} where ${[operator, others].join(' ').trim() || '…'} (${look})`;
  };
  const added = to.filter((each) => !from.some(({ id }) => id === each.id));
  const gone = from.filter((each) => !to.some(({ id }) => id === each.id));
  const changed = to.filter((each) => from.some((old) => old.id === each.id && !equal(old, each)));
  const parts = [
    ...added.map((each) => `marks ${words(each)}`),
    ...gone.map((each) => `no longer marks ${words(each)}`),
    ...changed.map((each) => `now marks ${words(each)}`),
  ];
  return parts.join('; ') || 'changed the order of the marks';
}
