/** How an instrument's clock ran: it was right when it was set, and so much ahead when it was read. */
export interface ClockRun {
  /** True time when it was set, ms since 1970. */
  setMs: number;
  /** True time when it was read, and what it said then. */
  readMs: number;
  saidMs: number;
}

/** True time of a moment of the instrument's clock, which ran linearly between setting and reading. Read at once after it was set it is taken as it is.
 *  @param saidMs ms since 1970 by the instrument */
export function trueMs(saidMs: number, run: ClockRun): number {
  const said = run.saidMs - run.setMs;
  if (!(said > 0)) return saidMs;
  return run.setMs + ((saidMs - run.setMs) * (run.readMs - run.setMs)) / said;
}

/** By how much the clock ran ahead of true time, in millionths; 0 where too little time has passed to know. */
export function driftPpm({ setMs, readMs, saidMs }: ClockRun): number {
  const passed = readMs - setMs;
  return passed > 0 ? ((saidMs - readMs) / passed) * 1e6 : 0;
}
