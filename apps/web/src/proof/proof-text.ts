import type { FieldType } from '@cendra/core';
import type { Cell } from '../ui/cell';
import { grouped } from '../ui/format';

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** A value as a report prints it: thousands apart, dates in words, nothing for null; values that fit no type keep their mark. */
export function proofText(cell: Cell, type: FieldType): string {
  if (cell === null) return '';
  if (typeof cell === 'object') return 'm' in cell ? `! ${cell.m}` : `${cell.t}…`;
  switch (type.kind) {
    case 'whole':
    case 'decimal':
      return number(cell);
    case 'date':
      return day(cell);
    case 'datetime':
      return `${day(cell.slice(0, 10))} ${cell.slice(11, 16)}`;
    case 'instant':
      return `${day(cell.slice(0, 10))} ${cell.slice(11, 16)} UTC`;
    case 'yesno':
      return cell === 'true' ? 'yes' : 'no';
    default:
      return cell;
  }
}

function number(text: string): string {
  const [wholePart = '', fraction] = text.replace('-', '').split('.');
  return `${text.startsWith('-') ? '−' : ''}${grouped(wholePart)}${fraction === undefined ? '' : `.${fraction}`}`;
}

function day(iso: string): string {
  const [year = '', month = '', date = ''] = iso.split('-');
  return `${Number(date)} ${MONTHS[Number(month) - 1] ?? month} ${year}`;
}
