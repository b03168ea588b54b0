import { MONTHS, WEEKDAYS } from '../expressions';
import type { Definition } from './definition';
import { checkTrail } from './check';
import { checkedStep } from './checked-trail';
import type { Calendar } from '../values';
import type { BriefItem } from './brief';
import type { Edit } from './edits';
import { proofSentence, sheetSentence } from './sheet-sentences';
import type { ItemChange, Step } from '../steps';
import { firstArriving, kindOf, NOTHING_ARRIVES, NOTHING_KNOWN } from '../steps';
import { beginning, UTC } from '../values';

/** What an edit did, in words, told from the definition before it. */
export function editSentence(edit: Edit, before: Definition): string {
  switch (edit.kind) {
    case 'set title':
      return edit.to === '' ? 'named the dataset by what it keeps again' : `renamed the dataset to ${edit.to}`;
    case 'add step':
      return `added ${stepTitle(edit.step, before)}`;
    case 'remove step':
      return `removed ${stepTitle(edit.step, before)}`;
    case 'set step':
      return stepChange(edit, before);
    case 'move step':
      return `moved ${titleAt(edit.step, before)} ${edit.to.after === null ? 'to the beginning' : `behind ${titleAt(edit.to.after, before)}`}`;
    case 'set input':
      return inputChange(edit, before);
    case 'set result':
      return edit.to === null ? 'hands nothing over' : `hands over ${titleAt(edit.to, before)}`;
    case 'rebind':
      return rebindSentence(edit, before);
    case 'add item':
      return itemSentence(edit, { did: 'added', item: edit.item }, before);
    case 'remove item':
      return itemSentence(edit, { did: 'removed', item: edit.item }, before);
    case 'set item':
      return itemSentence(edit, { did: 'changed', from: edit.from, to: edit.to }, before);
    case 'rename field':
      return edit.from === '' ? `named a calculated field ${edit.to}` : `renamed ${edit.from} to ${edit.to}`;
    case 'set calendar':
      return calendarChange(edit.from, edit.to);
    case 'add parameter':
      return `added the parameter :${edit.parameter.name}`;
    case 'remove parameter':
      return `removed the parameter :${edit.parameter.name}`;
    case 'set parameter':
      return `changed ${PROPERTY_WORDS[edit.property]} of ${parameterName(edit.parameter, before)}`;
    case 'move parameter':
      return `moved ${parameterName(edit.parameter, before)} ${edit.to.after === null ? 'to the beginning' : `behind ${parameterName(edit.to.after, before)}`}`;
    case 'rename parameter':
      return `renamed :${edit.from} to :${edit.to}`;
    case 'set dataset':
      return datasetChange(edit);
    case 'set sheet':
      return sheetSentence(edit, fieldName(edit.field, before));
    case 'set request':
      return edit.to === '' ? 'emptied the request' : `wrote the request: ${shortened(edit.to)}`;
    case 'add wish':
      return `asked for ${wishWords(edit.item)}`;
    case 'remove wish':
      return `no longer asks for ${wishWords(edit.item)}`;
    case 'set wish':
      return wishChange(edit);
    case 'set proof':
      return proofSentence(edit, (id) => fieldName(id, before));
  }
}

function datasetChange({ property, from, to }: Edit & { kind: 'set dataset' }): string {
  if (property === 'order') return 'changed the order of the fields that are handed over';
  if (property === 'watched')
    return ((to as readonly unknown[] | undefined) ?? []).length === 0 ? 'watches no figure any more' : 'changed which figures are watched';
  if (property === 'language') return `shows texts in the order of ${String(to ?? 'en')}`;
  if (property === 'description') return to === '' ? 'emptied the description' : `described the dataset: ${shortened(String(to))}`;
  const [before, after] = [from as readonly string[], to as readonly string[]];
  const added = after.filter((each) => !before.includes(each));
  const gone = before.filter((each) => !after.includes(each));
  return (
    [
      ...(added.length > 0 ? [`tagged it ${added.join(', ')}`] : []),
      ...(gone.length > 0 ? [`took off the tag ${gone.join(', ')}`] : []),
    ].join(' and ') || 'changed the order of the tags'
  );
}

const wishWords = ({ kind, text, figure }: BriefItem) =>
  `${kind === 'rows' ? 'rows' : `the ${kind}`} ${shortened(text) || 'without a text'}${figure === '' ? '' : `, ${figure}`}`;

function wishChange({ from, to }: Edit & { kind: 'set wish' }): string {
  if (from.met !== to.met) return `${to.met ? 'ticked' : 'took the tick off'} ${wishWords(to)}`;
  return `changed what is asked for from ${wishWords(from)} to ${wishWords(to)}`;
}

/** The name a field has where the trail ends, or where it was made. */
function fieldName(id: string, before: Definition): string {
  const { steps } = checkTrail(before);
  const field = steps.toReversed().flatMap(({ schema }) => schema.fields.find((each) => each.id === id) ?? [])[0];
  return field?.name ?? 'a missing field';
}

const shortened = (text: string) => {
  const line = text.replace(/\s+/g, ' ').trim();
  return line.length > 60 ? `${beginning(line, 59)}…` : line;
};

function calendarChange(from: Calendar, to: Calendar): string {
  const changes = [
    ...(from.firstDayOfWeek === to.firstDayOfWeek ? [] : [`weeks begin on ${WEEKDAYS[to.firstDayOfWeek - 1]}`]),
    ...(from.firstMonthOfYear === to.firstMonthOfYear ? [] : [`years begin in ${MONTHS[to.firstMonthOfYear - 1]}`]),
    ...(from.firstMonthOfSeason === to.firstMonthOfSeason && from.lastMonthOfSeason === to.lastMonthOfSeason
      ? []
      : [`seasons last from ${MONTHS[to.firstMonthOfSeason - 1]} to ${MONTHS[to.lastMonthOfSeason - 1]}`]),
    ...(from.zone === to.zone ? [] : [`instants read in ${to.zone ?? UTC}`]),
  ];
  return `made ${changes.join(' and ')}`;
}

const PROPERTY_WORDS = {
  type: 'the type',
  takes: 'how many values',
  leftBlank: 'what blank means',
  startsAs: 'the first value',
  startsBy: 'what the first value comes from',
  hint: 'the hint',
  choices: 'the choices',
  limits: 'the limits',
  isPrivate: 'whether others see the values',
};

const parameterName = (id: string, { parameters }: Definition) => `:${parameters.find((each) => each.id === id)?.name ?? id}`;

/** What the step is called in the definition. */
const titleAt = (id: string, before: Definition): string => checkedStep(checkTrail(before), id)?.title ?? id;

/** The step's name, or what it does, told with the fields its inputs have. */
function stepTitle(step: Step, before: Definition): string {
  if (step.name !== '') return step.name;
  const trail = checkTrail(before);
  const arriving = step.inputs.map((id) => (id === null ? undefined : checkedStep(trail, id)) ?? NOTHING_ARRIVES);
  const context = { parameters: before.parameters, calendar: before.calendar, catalogue: NOTHING_KNOWN };
  return `${step.kind}: ${kindOf(step).sentence(step, arriving, context)}`;
}

function stepChange({ step: id, property, from, to }: Edit & { kind: 'set step' }, before: Definition): string {
  const checked = checkedStep(checkTrail(before), id);
  const title = checked?.title ?? id;
  if (property === 'name') return to === '' ? `named ${title} by its sentence again` : `named ${title} ${String(to)}`;
  if (property === 'off') return to === true ? `disabled ${title}` : `enabled ${title}`;
  const says = checked && kindOf(checked.step).properties[property];
  return says ? says({ from, to, title }) : `changed ${title}`;
}

function itemSentence(
  { step: id, list }: { readonly step: string; readonly list: string },
  change: ItemChange,
  before: Definition,
): string {
  const checked = checkedStep(checkTrail(before), id);
  const said = checked && kindOf(checked.step).lists[list];
  return said && checked ? said.sentence(change, firstArriving(checked).schema, before.parameters) : `changed ${id}`;
}

function inputChange({ step: id, slot, to }: Edit & { kind: 'set input' }, before: Definition): string {
  const checked = checkedStep(checkTrail(before), id);
  const role = checked ? kindOf(checked.step).inputs.role(slot) : 'rows';
  const title = checked?.title ?? id;
  return to === null ? `took away the ${role} of ${title}` : `gave ${title} ${titleAt(to, before)} as its ${role}`;
}

function rebindSentence({ map, lost }: Edit & { kind: 'rebind' }, before: Definition): string {
  const shown = map.slice(0, 3).map((each) => `${fieldName(each.from, before)} by ${fieldName(each.to, before)}`);
  const more = map.length > shown.length ? ` and ${map.length - shown.length} more` : '';
  const missing = lost.length > 0 ? `; ${lost.length} found no partner` : '';
  return `replaced ${shown.join(', ')}${more}${missing}`;
}
