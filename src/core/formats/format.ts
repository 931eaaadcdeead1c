/** A signal on its own grid of times, as formats read and write it. */
export interface FormatSignal {
  name: string;
  unit: string;
  sampleRateHz: number;
  /** Seconds from the start of the recording to the first sample. */
  startS: number;
  length: number;
  read(first: number, count: number): Float32Array;
}
export interface Recording {
  name: string;
  /** Start, UTC, ISO 8601. */
  start: string;
  facts: [name: string, value: string][];
  signals: FormatSignal[];
}

/** The socket: an open file format, pure data in and out. */
export interface FormatKind<Options> {
  kind: string;
  title: string;
  extension: string;
  mediaType: string;
  /** What a recording loses in this format, in words. */
  cannotCarry: string;
  /** Text formats yield text (to be sent as UTF-8), binary ones bytes. */
  write(recording: Recording, options: Options): Generator<string | Uint8Array>;
}
