import type { ReceiverState } from '$contract/radio';

/** Samples as a receiver delivers them. */
export interface IqBlock {
  /** Index of the first sample since the receiver was opened; a jump is a loss. */
  first: number;
  /** I and Q in turn, V rms over 50 Ω. */
  iq: Float32Array;
  /** Whether it follows nothing: a recording was gone to another place, and nothing was lost. */
  anew?: boolean;
  /** What it was tuned to, where that is not what the receiver is tuned to now. */
  centreHz?: number;
  /** Whether the converter was at its end. */
  overload: boolean;
}

/** Where complex samples come from: a stand-in, a recording, a network. */
export interface IqSource {
  /** How it stands now. */
  state(): ReceiverState;
  /** Samples that come in a second, where a recording is not played at its own speed. */
  readonly paceHz?: number;
  /** Index of the sample that comes next. */
  readonly next: number;
  /** Everything received before an instant that was not handed over yet, oldest first.
   *  @throws FarrierError `unavailable` when it is gone */
  read(nowNs: bigint): IqBlock[];
  /** @throws `bad_input` for a frequency that it cannot reach */
  tune?(centreHz: number): void;
  /** Sets the gain for a while; undefined: back to what the unit is set to. */
  gain?(db: number | undefined): void;
  close(): void;
}
