import type { HeardBand, HeardFault, LineWish, Listening, RadioView } from '$contract/radio';
import type { CaughtTold, Catching } from '$contract/radio-catching';
import type { Measuring } from '$contract/radio-measuring';

/** What can be done with receivers. */
export interface RadioPort {
  views(): RadioView[];
  listen(unit: string, change: Partial<Listening>): Promise<RadioView[]>;
  lines(unit: string, lines: LineWish[]): RadioView[];
  measure(unit: string, change: Partial<Measuring>): RadioView[];
  catch(unit: string, change: Partial<Catching>): Promise<RadioView[]>;
  open(takeId: string): string;
  play(unit: string, to: { atS?: number; speed?: number }): RadioView[];
  close(): void;
  clear(unit: string, ids: string[]): void;
  heard(heard: HeardBand | CaughtTold | HeardFault): void;
  /** The engine began anew. */
  again(): void;
}
