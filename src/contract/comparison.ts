/** A channel beside a calibrated one over a varying signal. */
export interface Comparison {
  channelId: string;
  referenceId: string;
  /** Reference in the channel's unit, and what the fit goes over. */
  x: number[];
  y: number[];
  slope: number;
  offset: number;
  residualStd: number;
  standardErrorSlope: number;
  /** Coherence over the band in which the reference varies. */
  coherence: number;
  /** Share of the channel's range over which the reference went. */
  covered: number;
  /** Largest distance of the channel from the reference as it reads now. */
  asFound: number;
  warnings: string[];
}
