import type { HeardBand, HeardFault, LineWish, Listening, RadioView } from '$contract/radio';
import type { Measuring } from '$contract/radio-measuring';

/** What can be done with receivers. */
export interface RadioPort {
  views(): RadioView[];
  listen(unit: string, change: Partial<Listening>): Promise<RadioView[]>;
  lines(unit: string, lines: LineWish[]): RadioView[];
  measure(unit: string, change: Partial<Measuring>): RadioView[];
  clear(unit: string, ids: string[]): void;
  heard(heard: HeardBand | HeardFault): void;
  /** The engine began anew. */
  again(): void;
}
