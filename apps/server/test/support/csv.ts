/** A strict reader of CSV: a quoted nothing is empty text, an unquoted nothing is null. */
export function parseCsv(text: string): (string | null)[][] {
  const rows: (string | null)[][] = [];
  let row: (string | null)[] = [];
  for (let at = 0; at < text.length;) {
    if (text[at] === '"') {
      let end = at + 1;
      while (text[end] !== '"' || text[end + 1] === '"') end += text[end] === '"' ? 2 : 1;
      row.push(text.slice(at + 1, end).replaceAll('""', '"'));
      at = end + 1;
    } else {
      const end = /[,\n]/.exec(text.slice(at))?.index ?? text.length - at;
      row.push(end === 0 ? null : text.slice(at, at + end));
      at += end;
    }
    if (text[at] !== ',') {
      rows.push(row);
      row = [];
    }
    at++;
  }
  return rows;
}
