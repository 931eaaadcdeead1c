import { FarrierError } from '../errors';
import { BandListener, DETECTORS, type BandPicture } from './band';
import { LINES_MOST, planBand, USABLE_SHARE, type BandPlan, type BandRequest } from './resolution';
import { hertzText } from './words';

/** A band that is wider than what is received at once: heard in steps and joined. */
export interface SteppedPlan {
  /** Of the joined lines. */
  plan: BandPlan;
  /** Where the receiver is tuned to, in turn. */
  centresHz: number[];
  /** How each step is heard; its lines lie above the centre, where the receiver’s own DC is not. */
  own: BandPlan;
  /** Samples that a step is heard for. */
  dwell: number;
}

const STEPS_MOST = 250;
/** Lowest part above the centre that is heard: what is left of DC lies below it, share of the rate. */
const ABOVE = 0.02;
/** Least time of a step, s: the mean of some transforms. */
const DWELL_S = 0.02;

/** Whether a band is wider than what is received at once, by a receiver that can be tuned. */
export const isWide = (
  request: BandRequest,
  receiver: { sampleRateHz: number; tunes: object | null },
): boolean => receiver.tunes !== null && request.spanHz > receiver.sampleRateHz * USABLE_SHARE + 1;

/** Cuts a band into steps whose lines join without a seam: each lies a whole number of lines beside the last.
 *  @param receiver rate, and frequencies that it reaches @throws `bad_input` for what cannot be had, with the nearest that can */
export function planSteps(
  request: BandRequest,
  receiver: { sampleRateHz: number; tunes: { fromHz: number; toHz: number } },
): SteppedPlan {
  const { sampleRateHz, tunes } = receiver;
  const [from, to] = [request.centreHz - request.spanHz / 2, request.centreHz + request.spanHz / 2];
  if (from < tunes.fromHz || to > tunes.toHz)
    throw new FarrierError('bad_input', {
      what: `From ${hertzText(from)} to ${hertzText(to)} is more than the receiver reaches.`,
      where: 'the band',
      next: `It reaches from ${hertzText(tunes.fromHz)} to ${hertzText(tunes.toHz)}.`,
    });
  const whole = planBand(
    { ...request, centreHz: 0, spanHz: sampleRateHz * USABLE_SHARE },
    { centreHz: 0, sampleRateHz },
  );
  const { stepHz, transformLength } = whole;
  const lines = Math.floor(request.spanHz / stepHz) + 1;
  if (lines > LINES_MOST)
    throw new FarrierError('bad_input', {
      what: `A resolution of ${hertzText(request.resolutionHz)} over ${hertzText(request.spanHz)} makes more than ${LINES_MOST} lines.`,
      where: 'the band',
      next: `The nearest that can be had is ${hertzText((request.resolutionHz * 2 * lines) / LINES_MOST)}; or narrow the band to ${hertzText((LINES_MOST - 1) * stepHz)}.`,
    });
  const skip = Math.ceil(ABOVE * transformLength);
  const each = Math.floor((USABLE_SHARE / 2) * transformLength) - skip;
  const steps = Math.ceil(lines / each);
  if (steps > STEPS_MOST)
    throw new FarrierError('bad_input', {
      what: `It would take ${steps} steps.`,
      where: 'the band',
      next: `At most ${STEPS_MOST}: narrow the band to ${hertzText(STEPS_MOST * each * stepHz)}, or let the receiver take samples faster.`,
    });
  const own = { ...whole, firstLine: transformLength / 2 + skip, lines: each };
  const dwell = Math.max(2 * whole.windowLength, Math.ceil(DWELL_S * sampleRateHz));
  return {
    plan: { ...whole, firstLine: 0, lines, startHz: from, centreHz: request.centreHz, certainS: null, steps },
    centresHz: Array.from({ length: steps }, (_, k) => from + (k * each - skip) * stepHz),
    own,
    dwell,
  };
}

/** Joins what is heard step by step. */
export class SteppedListener {
  private readonly listener: BandListener;
  private readonly powers: BandPicture['powers'];
  private readonly done: Set<number> = new Set();
  private step = -1;
  private transforms = 0;
  private lost = 0;
  private firstSample = -1;

  constructor(readonly stepped: SteppedPlan) {
    this.listener = new BandListener(stepped.own);
    const { lines } = stepped.plan;
    this.powers = Object.fromEntries(
      DETECTORS.map((d) => [d, new Float64Array(lines)]),
    ) as BandPicture['powers'];
  }

  /** Some samples at one place of the receiver. @returns the whole band once every step was heard */
  push(iq: Float32Array, first: number, centreHz: number): BandPicture | null {
    const { centresHz, own, plan } = this.stepped;
    const step = centresHz.findIndex((c) => Math.abs(c - centreHz) < own.stepHz / 100);
    if (step < 0) return null; // on its way
    if (step !== this.step) {
      // What was heard elsewhere is no part of it.
      this.listener.look();
      this.listener.restart();
      this.step = step;
    }
    if (this.firstSample < 0) this.firstSample = first;
    this.listener.push(iq, first);
    const heard = this.listener.look();
    if (!heard) return null;
    const at = step * own.lines;
    const count = Math.min(own.lines, plan.lines - at);
    for (const d of DETECTORS) this.powers[d].set(heard.powers[d].subarray(0, count), at);
    this.transforms = this.done.size ? Math.min(this.transforms, heard.transforms) : heard.transforms;
    this.lost += heard.lost;
    this.done.add(step);
    if (this.done.size < centresHz.length) return null;
    const powers = Object.fromEntries(
      DETECTORS.map((d) => [d, this.powers[d].slice()]),
    ) as BandPicture['powers'];
    const picture = {
      firstSample: this.firstSample,
      endSample: first + iq.length / 2,
      transforms: this.transforms,
      powers,
      lost: this.lost,
    };
    this.done.clear();
    this.lost = 0;
    this.firstSample = -1;
    return picture;
  }
}
