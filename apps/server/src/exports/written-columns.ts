import type { SheetField } from '@cendra/core';
import { spreadsheetFormat } from '@cendra/core';
import type { WrittenColumn } from '../engine';
import type { ResultColumn } from '../runs/result.entity';

/** The columns as they are stored, for rows that are taken away without a field sheet. */
export function plainColumns(stored: readonly ResultColumn[]): readonly WrittenColumn[] {
  return stored.map((column) =>
    withFormat({ ...column, label: column.name }, spreadsheetFormat({ type: column.type, role: 'attribute' }, undefined)),
  );
}

/** The fields that are handed over, in the order, under the names and in the formats of the field sheet. */
export function sheetColumns(stored: readonly ResultColumn[], fields: readonly SheetField[]): readonly WrittenColumn[] {
  return fields.flatMap(({ id, name, label, role, format, forUseOnly }) => {
    const column = stored.find((each) => each.id === id);
    if (!column || forUseOnly) return [];
    const header = format?.unit ? `${label}, ${format.unit}` : label;
    return [withFormat({ ...column, name, label: header }, spreadsheetFormat({ type: column.type, role }, format))];
  });
}

const withFormat = (column: Omit<WrittenColumn, 'numberFormat'>, numberFormat: string | undefined): WrittenColumn =>
  numberFormat === undefined ? column : { ...column, numberFormat };
