/** What a cell holds; null is empty. */
export type SheetCell = string | number | Date | null;
export interface SheetColumn {
  label: string;
  unit?: string;
  holds: 'words' | 'numbers' | 'instants';
}
/** A table of a workbook, or of a folder of text files. */
export interface Sheet {
  title: string;
  columns: SheetColumn[];
  rows: Iterable<SheetCell[]>;
}
/** One whose rows are all known. */
export type WholeSheet = Sheet & { rows: SheetCell[][] };

export const headOf = ({ label, unit }: SheetColumn): string =>
  unit && unit !== '1' ? `${label} [${unit}]` : label;
export const words = (label: string): SheetColumn => ({ label, holds: 'words' });
export const numbers = (label: string, unit?: string): SheetColumn => ({ label, unit, holds: 'numbers' });
export const instants = (label: string): SheetColumn => ({ label, holds: 'instants' });
