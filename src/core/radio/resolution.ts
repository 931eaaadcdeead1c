import { FarrierError } from '../errors';
import { shapeWidths, type FilterShape } from './response';

/** What a band is asked for. Frequencies in Hz. */
export interface BandRequest {
  centreHz: number;
  spanHz: number;
  /** Resolution bandwidth, 3 dB down. */
  resolutionHz: number;
  /** Smoothing (video) bandwidth; null for none. */
  smoothingHz: number | null;
  shape: FilterShape;
}

/** Lines that are drawn and measured at the most. */
export const LINES_MOST = 8192;
const TRANSFORM_LEAST = 32;
const TRANSFORM_MOST = 1 << 20;
/** Share of the sample rate over which a receiver’s own filter is flat. */
export const USABLE_SHARE = 0.8;

/** How a band is heard: by overlapping transforms of windowed samples. */
export interface BandPlan {
  sampleRateHz: number;
  centreHz: number;
  shape: FilterShape;
  /** Samples of a window, of a transform (the window with zeros behind it), and from one to the next. */
  windowLength: number;
  transformLength: number;
  step: number;
  /** Transform lines that are heard: the first, counted from −rate/2, and how many. */
  firstLine: number;
  lines: number;
  /** Frequency of the first heard line, and from line to line. */
  startHz: number;
  stepHz: number;
  /** As it is: 3 dB down, and the equivalent noise bandwidth. */
  resolutionHz: number;
  noiseBandwidthHz: number;
  /** Window length by transform length: how many bins of the filter a line is. */
  binsPerLine: number;
  /** Share by which a transform moves the smoothed power on; 1 without smoothing. */
  smoothing: number;
  /** The shortest event that is caught for certain with its full level, s: one that fills a whole window wherever it begins. null: none is. */
  certainS: number | null;
  /** Places of the receiver that the band is joined of. */
  steps: number;
}

const engineering = (hz: number): string => {
  const [value, unit] = hz >= 1e6 ? [hz / 1e6, 'MHz'] : hz >= 1e3 ? [hz / 1e3, 'kHz'] : [hz, 'Hz'];
  return `${Number(value.toPrecision(4))} ${unit}`;
};
const cannot = (what: string, next: string) =>
  new FarrierError('bad_input', { what, where: 'the band', next });

/** Turns what is asked for into transforms. The overlap is half a window.
 *  @param receiver centre and rate at which samples come @param most samples there are, where they end
 *  @throws `bad_input` for what cannot be had, with the nearest that can */
export function planBand(
  request: BandRequest,
  receiver: { centreHz: number; sampleRateHz: number },
  most = Infinity,
): BandPlan {
  const { sampleRateHz } = receiver;
  const usable = sampleRateHz * USABLE_SHARE;
  const [from, to] = [request.centreHz - request.spanHz / 2, request.centreHz + request.spanHz / 2];
  if (!(request.spanHz > 0)) throw cannot('A band has to be wider than nothing.', 'Give a width above 0 Hz.');
  const [low, high] = [receiver.centreHz - usable / 2, receiver.centreHz + usable / 2];
  if (from < low - 1 || to > high + 1)
    throw cannot(
      `From ${engineering(from)} to ${engineering(to)} is more than is received: ${engineering(low)} to ${engineering(high)}.`,
      'Move or narrow the band, or tune the receiver.',
    );
  const widths = shapeWidths(request.shape);
  const least = Math.max(
    (widths.at3 * sampleRateHz) / TRANSFORM_MOST,
    (request.spanHz / LINES_MOST) * widths.at3,
  );
  const widest = (widths.at3 * sampleRateHz) / TRANSFORM_LEAST;
  if (!(request.resolutionHz >= least * (1 - 1e-9)))
    throw cannot(
      `A resolution of ${engineering(request.resolutionHz)} over ${engineering(request.spanHz)} makes more than ${LINES_MOST} lines.`,
      `The nearest that can be had is ${engineering(least)}; or narrow the band to ${engineering((request.resolutionHz / widths.at3) * LINES_MOST)}.`,
    );
  if (request.resolutionHz > widest * (1 + 1e-9))
    throw cannot(
      `A resolution of ${engineering(request.resolutionHz)} is wider than a receiver of ${engineering(sampleRateHz)} can have.`,
      `The nearest that can be had is ${engineering(widest)}.`,
    );
  const windowLength = Math.round((widths.at3 * sampleRateHz) / request.resolutionHz);
  if (windowLength > most)
    throw cannot(
      `A resolution of ${engineering(request.resolutionHz)} needs ${Number(((windowLength / sampleRateHz) * 1000).toPrecision(3))} ms of samples; there are ${Number(((most / sampleRateHz) * 1000).toPrecision(3))} ms.`,
      `The nearest that can be had is ${engineering((widths.at3 * sampleRateHz) / most)}.`,
    );
  let transformLength = TRANSFORM_LEAST;
  while (transformLength < windowLength) transformLength *= 2;
  const stepHz = sampleRateHz / transformLength;
  const lineAt = (hz: number) => (hz - receiver.centreHz) / stepHz + transformLength / 2;
  const firstLine = Math.max(0, Math.ceil(lineAt(from) - 1e-6));
  const lastLine = Math.min(transformLength - 1, Math.floor(lineAt(to) + 1e-6));
  const step = Math.max(1, Math.floor(windowLength / 2));
  const { smoothingHz } = request;
  return {
    sampleRateHz,
    centreHz: receiver.centreHz,
    shape: request.shape,
    windowLength,
    transformLength,
    step,
    firstLine,
    lines: lastLine - firstLine + 1,
    startHz: receiver.centreHz + (firstLine - transformLength / 2) * stepHz,
    stepHz,
    resolutionHz: (widths.at3 * sampleRateHz) / windowLength,
    noiseBandwidthHz: (widths.noise * sampleRateHz) / windowLength,
    binsPerLine: windowLength / transformLength,
    smoothing: smoothingHz === null ? 1 : 1 - Math.exp((-2 * Math.PI * smoothingHz * step) / sampleRateHz),
    certainS: (windowLength + step - 1) / sampleRateHz,
    steps: 1,
  };
}
