/** What stands in a file's metadata under “farrier”. */
export interface ParquetAbout {
  name: string;
  unit: string;
  quantity: string;
  rate: { num: number; den: number };
  startNs: number;
  length: number;
  take: string;
  start: string | null;
}
