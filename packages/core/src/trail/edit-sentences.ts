import { clauseSentence } from '../criteria';
import { MONTHS, WEEKDAYS } from '../expressions';
import type { Schema } from '../fields';
import type { Definition } from './definition';
import { checkedStep, checkTrail } from './check';
import type { Calendar } from '../values';
import type { BriefItem } from './brief';
import type { Edit } from './edits';
import { proofSentence, sheetSentence } from './sheet-sentences';
import type { Step } from '../steps';
import { kindOf } from '../steps';

/** What an edit did, in words, told from the definition before it. */
export function editSentence(edit: Edit, before: Definition): string {
  switch (edit.kind) {
    case 'set title':
      return `renamed the dataset to ${edit.to}`;
    case 'add step':
      return `added ${stepTitle(edit.step, before)}`;
    case 'remove step':
      return `removed ${stepTitle(edit.step, before)}`;
    case 'set step':
      return stepChange(edit, before);
    case 'add clause':
      return `added the clause ${words(edit.step, edit.clause, before)}`;
    case 'remove clause':
      return `removed the clause ${words(edit.step, edit.clause, before)}`;
    case 'set clause':
      return `changed ${words(edit.step, edit.from, before)} to ${words(edit.step, edit.to, before)}`;
    case 'add calculated':
      return edit.field.name === '' ? `added a calculated field` : `added the calculated field ${edit.field.name}`;
    case 'remove calculated':
      return `removed the calculated field ${edit.field.name || 'without a name'}`;
    case 'set calculated':
      return edit.to.expression.text === ''
        ? `emptied ${edit.to.name || 'a calculated field'}`
        : `calculated ${edit.to.name || 'a field'} as ${shortened(edit.to.expression.text)}`;
    case 'rename field':
      return edit.from === '' ? `named a calculated field ${edit.to}` : `renamed ${edit.from} to ${edit.to}`;
    case 'set calendar':
      return calendarChange(edit.from, edit.to);
    case 'add parameter':
      return `added the parameter :${edit.parameter.name}`;
    case 'remove parameter':
      return `removed the parameter :${edit.parameter.name}`;
    case 'set parameter':
      return `changed ${PROPERTY_WORDS[edit.property]} of :${before.parameters.find((each) => each.id === edit.parameter)?.name ?? edit.parameter}`;
    case 'move parameter':
      return `moved :${before.parameters.find((each) => each.id === edit.parameter)?.name ?? edit.parameter} to place ${edit.to + 1}`;
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
  return line.length > 60 ? `${line.slice(0, 59)}…` : line;
};

function calendarChange(from: Calendar, to: Calendar): string {
  const changes = [
    ...(from.firstDayOfWeek === to.firstDayOfWeek ? [] : [`weeks begin on ${WEEKDAYS[to.firstDayOfWeek - 1]}`]),
    ...(from.firstMonthOfYear === to.firstMonthOfYear ? [] : [`years begin in ${MONTHS[to.firstMonthOfYear - 1]}`]),
    ...(from.firstMonthOfSeason === to.firstMonthOfSeason && from.lastMonthOfSeason === to.lastMonthOfSeason
      ? []
      : [`seasons last from ${MONTHS[to.firstMonthOfSeason - 1]} to ${MONTHS[to.lastMonthOfSeason - 1]}`]),
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

/** The step's name, or what it does, told with the fields its inputs have. */
function stepTitle(step: Step, before: Definition): string {
  if (step.name !== '') return step.name;
  const trail = checkTrail(before);
  const schemas = step.inputs.map((id): Schema => checkedStep(trail, id)?.schema ?? { fields: [] });
  return `${step.kind}: ${kindOf(step).sentence(step, schemas, { parameters: before.parameters, calendar: before.calendar, catalogue: () => undefined })}`;
}

function stepChange(edit: Edit & { kind: 'set step' }, before: Definition): string {
  const title = checkedStep(checkTrail(before), edit.step)?.title ?? edit.step;
  switch (edit.property) {
    case 'name':
      return edit.to === '' ? `named ${title} by its sentence again` : `named ${title} ${String(edit.to)}`;
    case 'off':
      return edit.to ? `disabled ${title}` : `enabled ${title}`;
    case 'taken':
      return takenSentence(edit, title);
    case 'head':
      return `changed ${title} to keep rows where ${String(edit.to)} holds`;
    case 'fields':
      if (before.steps.find((each) => each.id === edit.step)?.kind === 'calculate')
        return `changed the order of the calculated fields ${title}`;
      return `took over the columns of ${title} as they are now`;
    case 'clauses':
      return `changed the order of the clauses of ${title}`;
    default:
      return `pointed ${title} to ${edit.property} ${String(edit.to)}`;
  }
}

function takenSentence(edit: Edit & { kind: 'set step' }, title: string): string {
  const [from, to] = [edit.from as readonly string[], edit.to as readonly string[]];
  const added = to.filter((each) => !from.includes(each)).length;
  const left = from.filter((each) => !to.includes(each)).length;
  const fields = (count: number) => `${count} field${count === 1 ? '' : 's'}`;
  if (added > 0 && left > 0) return `took ${fields(added)} of ${title} and left out ${fields(left)}`;
  if (added > 0) return `took ${fields(added)} of ${title}`;
  return left > 0 ? `left out ${fields(left)} of ${title}` : `changed the order of the fields of ${title}`;
}

function words(stepId: string, clause: Parameters<typeof clauseSentence>[0], before: Definition): string {
  const schema: Schema = checkedStep(checkTrail(before), stepId)?.schema ?? { fields: [] };
  return clauseSentence(clause, schema, before.parameters);
}
