import { createWriteStream } from 'node:fs';
import { once } from 'node:events';
import { finished } from 'node:stream/promises';
import type { ProofColumn, ProofTable, ReadLine } from '@cendra/core';
import {
  columnLink,
  columnText,
  columnWords,
  fieldUnder,
  freeColumns,
  LEADS,
  lineLabel,
  lineLink,
  lookOf,
  marksOf,
  totalAt,
} from '@cendra/core';
import type { Paper } from './pdf';
import { INKS } from './inks';

/** A text that is written line by line: what stands before, for each line, and behind. */
interface Written {
  readonly head: string;
  line(line: ReadLine): string;
  readonly foot: string;
  /** Lines beyond these are left out; `rest` says so. */
  readonly most?: number;
  rest?(left: number): string;
}

export type TextFormat = 'html' | 'md' | 'xml';

const MAKERS: Readonly<Record<TextFormat, (paper: Paper) => Written>> = { html, md: markdown, xml };

/** A table of Markdown is read by people, who do not read more of it. */
const MARKDOWN_MOST = 1_000;

/** Written as it is read, so that its size does not matter. */
export async function writeText(format: TextFormat, paper: Paper, lines: () => AsyncIterable<ReadLine>): Promise<null> {
  const written = MAKERS[format](paper);
  const out = createWriteStream(paper.out, { mode: 0o600 });
  // What goes wrong with the file is looked for before each line, and at its end.
  const over = finished(out);
  over.catch(() => undefined);
  const put = async (text: string) => {
    if (out.errored) throw out.errored;
    if (text !== '' && !out.write(text)) await Promise.race([once(out, 'drain'), over]);
  };
  try {
    await put(written.head);
    let count = 0;
    for await (const line of lines()) {
      count++;
      if (written.most === undefined || count <= written.most) await put(written.line(line));
    }
    if (written.most !== undefined && count > written.most) await put(written.rest?.(count - written.most) ?? '');
    await put(written.foot);
    out.end();
    await over;
  } finally {
    out.destroy();
  }
  return null;
}

const lettered = (line: ReadLine, column: ProofColumn, table: ProofTable) => {
  const { letters } = marksOf(line, column, table);
  const text = columnWords(line, column, table);
  return letters === '' ? text : `${text} ${letters}`;
};

// What XML and HTML cannot hold stands as the sign for a letter that is missing.
const UNHELD =
  // eslint-disable-next-line no-control-regex
  /[\u0000-\u0008\u000B\u000C\u000E-\u001F\uFFFE\uFFFF]|[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g;
const escaped = (text: string) =>
  text.replaceAll(UNHELD, '\uFFFD').replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');

const STYLE = `body{font:14px/1.4 system-ui,sans-serif;color:#1a1a18;background:#fff;margin:2rem}h1{font-size:1.3rem;margin:0 0 .5rem}
p{margin:.1rem 0;color:#5f5c55}.subtitle{font-size:1.1rem;color:inherit}table{border-collapse:collapse;margin-top:1rem;font-variant-numeric:tabular-nums}
th,td{padding:.15rem .5rem;text-align:left;vertical-align:top;font-weight:inherit;white-space:pre-line}.n{text-align:right}
thead th{border-bottom:1px solid;font-weight:600;vertical-align:bottom}tbody tr{border-bottom:1px solid #ddd9cf}
a{color:inherit}.header,.totals,.further,.grand{font-weight:600}.totals{border-top:1px solid}.grand{border-top:3px double}
.strong{font-weight:700}.faint{color:${INKS.faint};font-style:italic}.boxed{outline:1px solid;outline-offset:-2px}.good{color:${INKS.good}}.poor{color:${INKS.poor}}
img{display:block;max-width:100%;height:auto;margin-top:1rem}
@media print{thead{display:table-header-group}tr{break-inside:avoid}}`;

const LINE_CLASS = { header: 'header', row: '', totals: 'totals', 'further totals': 'further', 'grand total': 'grand' } as const;

const leading = (address: string, text: string) => `<a href="${escaped(address)}" rel="noopener noreferrer">${text}</a>`;

/** One file that needs nothing else, and runs nothing. */
function html({ table, title, subtitle, notes, language, drawn }: Paper): Written {
  const { columns, heads, worded } = table;
  const attribute = (name: string, value: string) => (value === '' ? '' : ` ${name}="${value}"`);
  const over = heads.map((line) =>
    line.map(({ words, columns: span }) => `<th scope="colgroup" colspan="${span}" class="n">${escaped(words)}</th>`).join(''),
  );
  const head = columns
    .map(({ header, number }) => `<th scope="col"${attribute('class', number ? 'n' : '')}>${escaped(header)}</th>`)
    .join('');
  const lead = worded ? '<th></th>' : '';
  return {
    head: `<!doctype html>
<html lang="${escaped(language)}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escaped(title)}</title><style>${STYLE}</style></head>
<body><h1>${escaped(title)}</h1>
${subtitle === undefined ? '' : `<p class="subtitle">${escaped(subtitle)}</p>\n`}${notes.map((each) => `<p>${escaped(each)}</p>`).join('\n')}
${drawn ? `<img src="data:image/jpeg;base64,${drawn.picture}" alt="${escaped(drawn.says)}" width="${drawn.width}" height="${drawn.height}">\n` : ''}<table><thead>${over.map((line) => `<tr>${lead}${line}</tr>`).join('')}<tr>${lead}${head}</tr></thead><tbody>
`,
    line: (line) => {
      const indent = line.level > 1 ? ` style="padding-left:${line.level - 0.5}rem"` : '';
      const leads = lineLink(line, table);
      const words = leads === undefined ? escaped(lineLabel(line, table)) : leading(leads, LEADS);
      const free = worded ? freeColumns(line, table) : 0;
      const span = free === 0 ? '' : ` colspan="${1 + free}"`;
      const label = worded ? `<th scope="row"${span}${indent}>${words}</th>` : '';
      const cells = columns.slice(free).map((column) => {
        const { looks } = marksOf(line, column, table);
        const classes = [...(column.number ? ['n'] : []), ...looks.filter((each) => each !== 'lettered')].join(' ');
        const text = escaped(lettered(line, column, table));
        const link = columnLink(line, column);
        return `<td${attribute('class', classes)}>${link === undefined ? text : leading(link, text)}</td>`;
      });
      return `<tr${attribute('class', LINE_CLASS[lookOf(line, table.layout)])}>${label}${cells.join('')}</tr>\n`;
    },
    foot: '</tbody></table></body></html>\n',
  };
}

/** CommonMark has no tables of its own; this is how its readers take them (GitHub Flavored Markdown, 4.10). */
function markdown({ table, title, subtitle, notes }: Paper): Written {
  const { columns, places, worded } = table;
  const cell = (text: string) =>
    text
      .replaceAll('\\', '\\\\')
      .replaceAll('|', '\\|')
      .replaceAll(/\s*[\r\n]+\s*/g, ' ')
      .replaceAll(/([*_`<[\]])/g, '\\$1');
  const leading = (address: string, text: string) => `[${text}](<${address.replaceAll(/[<>|\\\s]/g, encodeURIComponent)}>)`;
  const rowOf = (cells: readonly string[]) => `| ${cells.join(' | ')} |\n`;
  const lead = worded ? [''] : [];
  const headers = columns.map(({ header, place }) =>
    cell([...(place === undefined ? [] : [places?.words[place] ?? '']), header].join(': ')),
  );
  return {
    head: `# ${cell(title)}\n\n${subtitle === undefined ? '' : `## ${cell(subtitle)}\n\n`}${notes.map((each) => `${cell(each)}\n\n`).join('')}${rowOf([...lead, ...headers])}${rowOf([...lead.map(() => '---'), ...columns.map(({ number }) => (number ? '---:' : '---'))])}`,
    line: (line) => {
      const strong = (text: string) => (text === '' || lookOf(line, table.layout) === 'row' ? text : `**${text}**`);
      const cells = columns.map((column) => {
        const { looks } = marksOf(line, column, table);
        const link = columnLink(line, column);
        const text = cell(lettered(line, column, table));
        const shown = link === undefined ? text : leading(link, text);
        return looks.includes('strong') && text !== '' ? `**${shown}**` : strong(shown);
      });
      const leads = lineLink(line, table);
      const label = leads === undefined ? strong(cell(lineLabel(line, table))) : leading(leads, LEADS);
      return rowOf([...(worded ? [label] : []), ...cells]);
    },
    foot: '',
    most: MARKDOWN_MOST,
    rest: (left) => `\n${left} more lines are left out.\n`,
  };
}

/** Lines as they are read: what each is, its group, and a value for each column, as it is shown. */
function xml({ table, title, subtitle, notes, language }: Paper): Written {
  const { columns, places, worded } = table;
  const named = columns.map(({ field, header, place }) => ({
    name: field.name,
    header,
    over: place === undefined ? undefined : places?.words[place],
  }));
  const aside = ({ over: head }: (typeof named)[number]) => (head === undefined ? '' : ` over="${escaped(head)}"`);
  return {
    head: `<?xml version="1.0" encoding="UTF-8"?>
<proof xml:lang="${escaped(language)}">
<title>${escaped(title)}</title>
${subtitle === undefined ? '' : `<subtitle>${escaped(subtitle)}</subtitle>\n`}${notes.map((each) => `<note>${escaped(each)}</note>`).join('\n')}
<columns>
${named.map((each) => `<column field="${escaped(each.name)}"${aside(each)}>${escaped(each.header)}</column>`).join('\n')}
</columns>
<lines>
`,
    line: (line) => {
      const label = worded && line.kind !== 'row' ? `<group>${escaped(lineLabel(line, table))}</group>` : '';
      const values = columns.map((column, at) => {
        const text = columnText(line, column, table);
        const marks = marksOf(line, column, table);
        const looks = [...marks.looks.filter((each) => each !== 'lettered'), ...Array.from(marks.letters)].join(' ');
        const each = named[at] as (typeof named)[number];
        const { name } = fieldUnder(line, column, table);
        const total = line.kind === 'totals' ? totalAt(line, column, table)?.total : undefined;
        const figure = total ? ` total="${total.aggregate}"` : '';
        return text === ''
          ? ''
          : `<value field="${escaped(name)}"${figure}${aside(each)}${looks === '' ? '' : ` marks="${looks}"`}>${escaped(text)}</value>`;
      });
      const leads = lineLink(line, table);
      return `<line kind="${line.kind}" level="${line.level}"${leads === undefined ? '' : ` link="${escaped(leads)}"`}>${label}${values.join('')}</line>\n`;
    },
    foot: '</lines>\n</proof>\n',
  };
}
