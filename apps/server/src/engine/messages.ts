import type { AcrossPlace, FieldType, ProofTable, SheetField } from '@cendra/core';

/** Both sides say this; a child of another build is not used. */
export const ENGINE_VERSION = 7;

/** A column as it lies in a stored result: named by field id. */
export interface StoredColumn {
  readonly id: string;
  readonly type: FieldType;
  readonly measuredScale?: number;
  /** Of some texts only the beginning is there, with their length in a column beside. */
  readonly shortened?: boolean;
}

export interface SortBy {
  readonly field: string;
  readonly descending: boolean;
  /** Nulls stand last where it is left out. */
  readonly nullsFirst?: boolean;
}

/** Rows that were landed, under the handle statements read them by. */
export interface LandedFile {
  readonly handle: string;
  readonly file: string;
  /** Its row numbers under this name, where they are asked for. */
  readonly numbered?: string;
  /** Fields whose marks are read beside them, as `field mark`. */
  readonly marked?: readonly string[];
}

/** A text as far as it is given, and how many characters it has. */
export interface CellText {
  readonly text: string | null;
  readonly length: number;
}

/** What a stored result is written to for taking away. */
export const FILE_FORMATS = ['csv', 'json', 'ndjson', 'parquet', 'xlsx'] as const;
export type FileFormat = (typeof FILE_FORMATS)[number];

/** A column as it is written: under its name for programs and its label for people, in the number format of spreadsheets. */
export interface WrittenColumn extends StoredColumn {
  readonly name: string;
  readonly label: string;
  readonly numberFormat?: string;
}

/** Lines of a further sheet that say what the rows are. */
export type About = readonly (readonly [string, string])[];

/** A file of rows as a source gave them. Other kinds of sources may give other formats. */
export interface RowsFile {
  readonly format: 'csv';
  readonly file: string;
  /** A column of no meaning stands behind the others. */
  readonly filler: boolean;
  /** In bytes. */
  readonly longestRow: number;
}

/** Everything the engine does. Files, and folders of a result's parts, are named by path inside the folder the instance may touch. */
export type EngineWork =
  /** What the process takes, in bytes. */
  | { readonly work: 'memory' }
  /** A working instance of its own that sees one folder. */
  | { readonly work: 'open'; readonly run: string; readonly folder: string }
  /** Turns rows as a source gave them into a Parquet file of the stored types. */
  | {
      readonly work: 'land';
      readonly run: string;
      readonly from: RowsFile;
      readonly columns: readonly StoredColumn[];
      /** Rows the source sent; what is written must hold as many. */
      readonly rows: number;
      readonly out: string;
    }
  /** Makes rows of landed files by a statement of the combine engine; values stand in its places. */
  | {
      readonly work: 'combine';
      readonly run: string;
      readonly landed: readonly LandedFile[];
      readonly text: string;
      readonly values: readonly (string | readonly string[])[];
      /** What the statement's columns are, in their order: fields, and marks of some of them. */
      readonly columns: readonly string[];
      readonly fields: readonly StoredColumn[];
      /** Fields whose marks are among the columns. */
      readonly marked: readonly string[];
      /** Rows beyond this are left out. */
      readonly most: number;
      readonly out: string;
    }
  /** The few rows of such a statement, as texts. */
  | {
      readonly work: 'rows';
      readonly run: string;
      readonly landed: readonly LandedFile[];
      readonly text: string;
      readonly values: readonly (string | readonly string[])[];
    }
  | { readonly work: 'close'; readonly run: string }
  | {
      readonly work: 'sort';
      readonly file: string;
      readonly columns: readonly StoredColumn[];
      readonly sort: readonly SortBy[];
      /** Whose order texts have: a language by its BCP 47 name. */
      readonly language: string;
      readonly out: string;
    }
  /** Puts a run's rows into their order, numbered anew, without the columns that were there for the order only. */
  | {
      readonly work: 'order';
      readonly run: string;
      readonly file: string;
      readonly columns: readonly StoredColumn[];
      readonly sort: readonly SortBy[];
      readonly language: string;
      readonly leaves: readonly string[];
      readonly out: string;
    }
  | {
      readonly work: 'page';
      readonly file: string;
      readonly columns: readonly StoredColumn[];
      readonly sorted: boolean;
      /** Some value fits no type, so the result carries marks. */
      readonly marked: boolean;
      readonly offset: number;
      readonly limit: number;
      readonly cellBytes: number;
      readonly pageBytes: number;
    }
  | { readonly work: 'cell'; readonly file: string; readonly column: StoredColumn; readonly row: string; readonly most: number }
  | {
      readonly work: 'find';
      readonly file: string;
      readonly sorted: boolean;
      readonly columns: readonly StoredColumn[];
      readonly text: string;
      /** Position the search begins at. */
      readonly from: number;
    }
  | { readonly work: 'profile'; readonly file: string; readonly column: StoredColumn }
  /** How long the values of each column are at most. */
  | { readonly work: 'extent'; readonly file: string; readonly columns: readonly StoredColumn[] }
  | {
      readonly work: 'write';
      readonly format: FileFormat;
      readonly marked: boolean;
      readonly file: string;
      readonly columns: readonly WrittenColumn[];
      readonly about: About;
      readonly out: string;
    }
  | {
      readonly work: 'paper';
      readonly format: PaperFormat;
      readonly marked: boolean;
      /** The lines of a proof, how many there are, and what their cells are. */
      readonly file: string;
      readonly lines: number;
      readonly columns: readonly StoredColumn[];
      readonly layout: ProofTable['layout'];
      readonly fields: readonly SheetField[];
      readonly across?: readonly AcrossPlace[];
      /** The rows the lines are of, for a spreadsheet, which has them on a further sheet. */
      readonly rows: { readonly file: string; readonly columns: readonly WrittenColumn[]; readonly whole: boolean };
      readonly title: string;
      readonly subtitle?: string;
      readonly notes: readonly string[];
      /** More of what it is, in a spreadsheet. */
      readonly about: About;
      /** What is drawn above the lines: a JPEG in base64, how large it is in pixels, and what it shows in words. */
      readonly drawn?: { readonly picture: string; readonly width: number; readonly height: number; readonly says: string };
      /** A tag of BCP 47. */
      readonly language: string;
      readonly out: string;
    };

/** Files that are read rather than worked with. */
export const PAPER_FORMATS = ['pdf', 'xlsx', 'html', 'md', 'xml'] as const;
export type PaperFormat = (typeof PAPER_FORMATS)[number];

/** Where a text stands in the rows: counted from 0, null where it is nowhere (any more). */
export interface Found {
  readonly next: number | null;
  readonly first: number | null;
  readonly rows: number;
}

/** What the values of a field are like. Numbers and values as texts in wire form. */
export interface Profile {
  readonly rows: string;
  readonly nulls: string;
  readonly empty: string;
  readonly distinct: string;
  readonly least: string | null;
  readonly greatest: string | null;
  readonly mean: string | null;
  readonly top: readonly { readonly value: string | null; readonly rows: string }[];
  /** How values spread from the least to the greatest, in steps of equal width. */
  readonly spread: readonly { readonly from: string; readonly until: string; readonly rows: number }[];
}

/** Per column the longest value in characters, or for numbers the value of the greatest size. */
export type Extent = readonly (string | null)[];

/** What writing a file had to change. */
export interface Written {
  /** Texts longer than a cell of the format holds. */
  readonly cutTexts: number;
  /** Numbers with more digits than the format keeps, written as text. */
  readonly longNumbers: number;
}

export interface Landed {
  /** A column of marks was written. */
  readonly marked: boolean;
  readonly bytes: number;
  readonly misfits: Readonly<Record<string, number>>;
  readonly measured: Readonly<Record<string, number>>;
}

export interface Combined extends Landed {
  readonly rows: number;
}

/** What each work answers with. Pages come as encoded JSON, so rows never cross as objects. */
export interface EngineAnswers {
  open: null;
  land: Landed;
  combine: Combined;
  rows: readonly (readonly (string | null)[])[];
  close: null;
  sort: null;
  order: null;
  page: Uint8Array;
  memory: number;
  cell: CellText;
  find: Found;
  profile: Profile;
  extent: Extent;
  write: Written;
  /** How many pages there are, of what has pages. */
  paper: { readonly pages: number } | null;
}

export interface EngineRequest {
  readonly id: number;
  readonly task: EngineWork | { readonly work: 'cancel'; readonly request: number };
}

export type EngineReply =
  | { readonly ready: number }
  | { readonly id: number; readonly ok: true; readonly answer: EngineAnswers[keyof EngineAnswers] }
  | {
      readonly id: number;
      readonly ok: false;
      readonly code: 'engine-failed' | 'engine-cancelled' | 'engine-full' | 'engine-range' | 'engine-lost';
      readonly message: string;
    };
