import type { z } from 'zod';
import type { Sampled } from '../samples/sampled';
import type { Sentence } from '../sentence/sentence';

/** What a format reads from and writes: signals on their own grids of times. */
export interface Recording {
  name: string;
  /** Name of the job that it belongs to. */
  job?: string;
  /** Start, UTC, ISO 8601; null where the file does not say. */
  start: string | null;
  facts: [name: string, value: string][];
  signals: Sampled[];
  /** What else is known of a signal by its id: sensor, calibration and the like, each with its name. */
  about?: ReadonlyMap<string, [name: string, value: string][]>;
}

/** A piece of what is written: text (sent as UTF-8) or bytes of the file at hand; a name begins the next file. What has several files is sent as
 *  one archive. */
export type Piece = string | Uint8Array | { file: string };

/** A file whose parts are read as they are needed. */
export interface Source {
  /** With its ending. */
  name: string;
  /** Bytes. */
  length: number;
  /** As many bytes as there are, up to `count`. */
  read(at: number, count: number): Uint8Array;
}

/** The socket: an open file format, pure data in and out. It writes, reads, or both. */
export interface FormatKind<W extends z.ZodObject = z.ZodObject, R extends z.ZodObject = z.ZodObject> {
  kind: string;
  title: string;
  /** Of its files, the usual one first. */
  extensions: readonly string[];
  mediaType: string;
  /** What a recording loses in this format, in words. */
  cannotCarry: string;
  /** Loads the library that it is written and read with: to be awaited before either. */
  prepare?(): Promise<unknown>;
  writing?: {
    /** Whether it takes complex samples; else they come as two real signals. */
    complex?: true;
    sentence: Sentence<W>;
    defaults: z.infer<W>;
    /** Nothing of it can be sent before all of it is made. */
    whole?: true;
    /** The first piece shows whether the options suit. @throws `bad_input` */
    write(recording: Recording, options: z.infer<W>): Generator<Piece>;
  };
  reading?: {
    sentence: Sentence<R>;
    defaults: z.infer<R>;
    /** By how the file begins. */
    recognises(source: Source): boolean;
    /** Its signals read the source as long as they are used. @throws `damaged`, `bad_input` naming the place */
    read(source: Source, options: z.infer<R>): Recording;
  };
}
