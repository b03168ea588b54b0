import type { Cell } from '../../ui/cell';

/** At most this many cells are copied at once; more are taken away as a file. */
export const MOST_CELLS = 200_000;

/** A cell as other programs read it: null is nothing, a cut text as far as it is here. */
export function copiedCell(cell: Cell | undefined): string {
  if (cell === null || cell === undefined) return '';
  return typeof cell === 'string' ? cell : 't' in cell ? cell.t : cell.m;
}

/**
 * Rows with their header as text with tabs (text/tab-separated-values as spreadsheets read it): a cell with a tab,
 * a line end or a quote stands in quotes. A text that would be taken for a formula gets an apostrophe before it.
 */
export function tabbed(header: readonly string[], rows: readonly (readonly string[])[], isText: readonly boolean[]): string {
  const lines = [header.map(quoted), ...rows.map((row) => row.map((cell, index) => quoted(isText[index] ? neutral(cell) : cell)))];
  return lines.map((line) => line.join('\t')).join('\n');
}

const quoted = (text: string) => (/[\t\n\r"]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
const neutral = (text: string) => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text);

/** Puts a text on the clipboard; where the page may not (an address without TLS), by way of a selection. */
export async function toClipboard(text: string): Promise<void> {
  if (window.isSecureContext) {
    await navigator.clipboard.writeText(text);
    return;
  }
  const area = document.createElement('textarea');
  area.value = text;
  area.style.position = 'fixed';
  area.style.opacity = '0';
  const focused = document.activeElement;
  document.body.append(area);
  area.select();
  document.execCommand('copy');
  area.remove();
  if (focused instanceof HTMLElement) focused.focus();
}
