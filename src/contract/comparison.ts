/** A channel beside a calibrated one over a varying signal. */
export interface Comparison {
  channelId: string;
  referenceId: string;
  /** Over how long they were compared, s. */
  seconds: number;
  /** What both were when they were compared, as text. */
  meaning: string;
  /** Reference in the channel's unit, and what the fit goes over. */
  x: number[];
  y: number[];
  /** Of the line's scatter, and where the line and its slope stand: see the fit of a calibration. */
  dof: number;
  placed: number;
  about: { mean: number; spread: number };
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
