import type { HeardBand, HeardFault, LineWish, Listening, RadioView } from '$contract/radio';
import type { CaughtTold, Catching } from '$contract/radio-catching';
import type { GatherTold } from '$contract/radio-gathering';
import type { EmissionRun, EmissionSettings, EmissionView } from '$contract/radio-emissions';
import type { NoiseResult, NoiseSettings, NoiseSource, NoiseState, NoiseView } from '$contract/radio-noise';
import type { Modulation } from '$contract/radio-modulation';
import type { Picture, Pictured } from '$contract/radio-pictures';
import type { Measuring } from '$contract/radio-measuring';

/** What can be done with a bench of noise figures. */
export interface NoisePort {
  views(): NoiseView[];
  change(unit: string, change: Partial<NoiseSettings>): NoiseView[];
  changeDevice(unit: string, device: string): NoiseView[];
  changeForNow(unit: string, points: NoiseSource['points'] | null): NoiseView[];
  measure(unit: string, states: NoiseState[], by: string): Promise<NoiseView[]>;
  stop(unit: string): void;
  results(): NoiseResult[];
  drop(id: string, by: string): void;
}

/** What can be done with a bench of emissions. */
export interface EmissionPort {
  views(): EmissionView[];
  change(unit: string, change: Partial<EmissionSettings>): EmissionView[];
  look(unit: string, ambient: boolean, by: string): EmissionView[];
  stop(unit: string): void;
  runs(): EmissionRun[];
  lines(id: string): Uint8Array<ArrayBuffer>;
  measure(id: string, unit: string, suspects: readonly number[]): EmissionView[];
  note(id: string, suspect: number, change: { note?: string; ambient?: boolean }): EmissionRun;
  addPicture(id: string, content: Buffer): EmissionRun;
  dropPicture(id: string, at: number): EmissionRun;
  drop(id: string, by: string): void;
}

/** What can be done with receivers. */
export interface RadioPort {
  readonly gatherings: { told(unit: string, said: GatherTold): void };
  readonly noise: NoisePort;
  readonly emissions: EmissionPort;
  views(): RadioView[];
  listen(unit: string, change: Partial<Listening>): Promise<RadioView[]>;
  lines(unit: string, lines: LineWish[]): RadioView[];
  measure(unit: string, change: Partial<Measuring>): RadioView[];
  catch(unit: string, change: Partial<Catching>): Promise<RadioView[]>;
  modulation(unit: string, change: Partial<Modulation>): Promise<RadioView[]>;
  arrange(unit: string, page: Pictured, pictures: readonly Picture[]): RadioView[];
  open(takeId: string): string;
  play(unit: string, to: { atS?: number; speed?: number }): RadioView[];
  close(): void;
  clear(unit: string, ids: string[]): void;
  heard(heard: HeardBand | CaughtTold | HeardFault): void;
  /** The engine began anew. */
  again(): void;
}
