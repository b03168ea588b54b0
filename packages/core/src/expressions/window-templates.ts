import { writtenName } from './reserved';

/** What can be said in words and is written as an expression. */
export const WINDOW_TEMPLATES = ['share of the total', 'running total', 'rank', 'difference to the previous row'] as const;
export type WindowTemplate = (typeof WINDOW_TEMPLATES)[number];

export interface WindowTemplateNames {
  /** The field it is about. */
  readonly of: string;
  /** Rows with the same value of it belong together; left out, all rows do. */
  readonly each?: string;
  /** What rows follow one another by, where that matters. */
  readonly by?: string;
  /** A key that decides between rows that are equal in that. */
  readonly key?: string;
}

/** Whether rows have to follow one another for it. */
export const needsOrder = (template: WindowTemplate): boolean =>
  template === 'running total' || template === 'difference to the previous row';

/** How the values of a template are written where nothing else is said: shares in percent. */
export const windowTemplatePattern = (template: WindowTemplate): string | undefined =>
  template === 'share of the total' ? '#,##0.00 %' : undefined;

/** The expression for a template. Shares have twelve decimals more than what they are of: however they are shown, they add up to the whole. */
export function writeWindowTemplate(template: WindowTemplate, names: WindowTemplateNames): string {
  const name = (of: string) => writtenName('field', of);
  const of = name(names.of);
  const each = names.each === undefined ? '' : `partition by ${name(names.each)}`;
  const keys = [names.by, names.key].flatMap((key, index, all) => (key === undefined || all.indexOf(key) !== index ? [] : [name(key)]));
  const over = (order: string) => `over (${[each, order].filter((part) => part !== '').join(' ')})`;
  const inOrder = keys.length > 0 ? `order by ${keys.join(', ')}` : '';
  switch (template) {
    case 'share of the total':
      return `1.000000000000 * ${of} / sum(${of}) ${over('')}`;
    case 'running total':
      return `sum(${of}) ${over(inOrder)}`;
    case 'rank':
      return `rank() ${over(`order by ${of} desc`)}`;
    case 'difference to the previous row':
      return `${of} - lag(${of}) ${over(inOrder)}`;
  }
}
