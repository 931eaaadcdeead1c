import type { Sheet } from '$core/pages/sheet';
import type { Extremes, Parts } from '$core/figures/forms';
import type { StudyResult } from '$core/studies/study';
import type { FitResult } from '$core/modal/analysis';
import type { Wireframe } from '$core/wireframe/wireframe';
import type { SetView } from '$contract/modal';
import type { BlockKinds, BlockSettings } from '$contract/report-blocks';
import type { StudyView } from '$contract/study';
import type { EmissionRun } from '$contract/radio-emissions';
import type { NoiseResult } from '$contract/radio-noise';
import type { SeriesTable } from '$contract/series';
import type { TakeSignal, TakeView } from '$contract/take';
import type { TrailStep } from '$contract/study';

/** What a page is made of: the take it is shown for, those of the whole report, and where it stands. */
export interface PageContext {
  take: TakeView | null;
  takes: { id: string; name: string }[];
  /** Channels of the take by the ids that blocks mean; what the take lacks is named. */
  channels(ids: readonly string[]): { found: TakeSignal[]; lacking: string[] };
  /** Curves of channels of the take over a span, by their extremes. */
  curves(signals: readonly TakeSignal[], fromS: number, toS: number, points: number): Extremes[];
  /** One value of each of equal parts of a span. @throws `bad_input` where that would be too many samples */
  parts(
    signals: readonly TakeSignal[],
    fromS: number,
    toS: number,
    parts: number,
    of: 'mean' | 'highest' | 'lowest',
  ): Parts[];
  /** Channels against another one. */
  pairs(
    across: TakeSignal,
    signals: readonly TakeSignal[],
    fromS: number,
    toS: number,
  ): { name: string; unit: string; colour: number; x: Float32Array; y: Float32Array }[];
  /** Of channels at an instant the value with its expanded uncertainty (about 95 %); null where there is none, or nothing says how certain it is. */
  readings(
    signals: readonly TakeSignal[],
    atS: number,
  ): { value: number | null; uncertainty: number | null }[];
  /** A study of the take by its name; where none is named the first that has what is looked for. */
  study(
    name: string,
    has?: (result: StudyResult) => boolean,
  ): { view: StudyView; result: StudyResult } | null;
  /** The same of another take of the report. */
  studyOf(take: string, name: string): StudyView | null;
  factsOf(take: string): Record<string, string>;
  /** A series by its name, or the first that there is. */
  series(name: string): SeriesTable | null;
  /** From a study back to the sensors. */
  trail(study: string): TrailStep[];
  /** The last noise figure or look for emissions of a device by its name, or of any; null where there is none. */
  noise(device: string): NoiseResult | null;
  emissions(device: string): EmissionRun | null;
  /** A modal analysis by its name, or the last one, and its set of that number; null where there is none. */
  modal(name: string, set: number): ModalFound | null;
  /** A picture that was kept; null where there is none. */
  picture(id: number): { type: string; content: Uint8Array } | null;
  /** A live value by its name; null where there is none. */
  value(name: string): string | null;
  page: number;
  pages: number;
}

/** A set of a modal analysis as blocks draw it. */
export interface ModalFound {
  name: string;
  set: SetView;
  frame: Wireframe;
  /** Poles of all orders. */
  fit(): FitResult;
  /** Sum of all cross powers, under the window. */
  sum(): { hz: Float64Array; sum: Float64Array };
}

/** Draws a block onto its sheet. What it lacks is said there and in the sheet’s faults: a page is never refused for it. */
export type BlockPainter<K extends keyof BlockKinds> = (
  sheet: Sheet,
  settings: BlockSettings<K>,
  page: PageContext,
) => void;

/** Says on the page what is not there. */
export function lacking(sheet: Sheet, says: string): void {
  sheet.faults.push(says);
  sheet.flow(0, 0, [{ text: says, face: { size: 8.5, colour: sheet.ink.tones.warning } }], sheet.width);
}

/** The study that a block means, or what it says instead. */
export function wanted(
  sheet: Sheet,
  name: string,
  page: PageContext,
  has?: (result: StudyResult) => boolean,
): { view: StudyView; result: StudyResult } | null {
  const found = page.study(name, has);
  if (!found)
    lacking(
      sheet,
      !page.take
        ? 'No take is chosen.'
        : name
          ? `${page.take.head.name} has no study “${name}” with a result.`
          : `${page.take.head.name} has no study with a ${has ? 'figure' : 'result'}.`,
    );
  return found;
}

/** Under what name the trail of a study is reached from its findings. */
export const trailAnchor = (study: string): string => `trail ${study}`;
