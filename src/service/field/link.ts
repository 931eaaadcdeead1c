import { crc32 } from 'node:zlib';
import { FarrierError } from '$core/errors';
import { FrameReader, MOST_CARRIED, frameBytes } from '$core/field/frames';
import { ANSWER, KINDS, REFUSED, packed, readReadings, unpacked, type Kind, type Refusal } from '$core/field/messages'; // prettier-ignore
import type { RecorderState } from '$core/field/recorder/state';
import { fetchPieces } from './pieces';

/** A line to an instrument: bytes out, bytes in, and its end. */
export interface Line {
  write(bytes: Uint8Array): void;
  onBytes(hear: (bytes: Uint8Array) => void): void;
  onEnd(hear: () => void): void;
  close(): void;
}

/** What an instrument does not do. */
export class InstrumentRefusal extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.says);
  }
}

/** How long an answer is waited for, ms, and how often it is asked. */
const PATIENCE = { ms: 400, tries: 6 };

/** Asks an instrument over a line that may lose, spoil, delay and reorder what is said. A request is said again with its number until its answer comes: the
 *  instrument does it once. */
export class FieldLink {
  private readonly reader = new FrameReader(crc32);
  private waiting = new Map<number, (answer: { kind: number; carried: Uint8Array } | null) => void>();
  private request = Math.floor(Math.random() * 0x10000);
  private over = false;

  constructor(
    private readonly line: Line,
    private readonly patience = PATIENCE,
    /** Bytes that an answer of many rows may have on this line. */
    readonly bulk = MOST_CARRIED,
  ) {
    line.onBytes((bytes) => {
      for (const { kind, request, carried } of this.reader.push(bytes))
        this.waiting.get(request)?.({ kind, carried });
    });
    line.onEnd(() => {
      this.over = true;
      for (const told of this.waiting.values()) told(null);
    });
  }
  get ended(): boolean {
    return this.over;
  }
  close(): void {
    this.over = true;
    this.line.close();
  }

  /** @param tries as often as this line is patient, unless it is said @throws InstrumentRefusal, or `unavailable` where no answer comes */
  async ask(kind: Kind, content: unknown = {}, tries = this.patience.tries): Promise<Uint8Array> {
    this.request = (this.request + 1) % 0x10000;
    const { request } = this;
    const frame = frameBytes({ kind: KINDS[kind], request, carried: packed(content) }, crc32);
    for (let n = 0; n < tries && !this.over; n++) {
      const answer = await new Promise<{ kind: number; carried: Uint8Array } | null>((told) => {
        const timer = setTimeout(() => told(null), this.patience.ms);
        this.waiting.set(request, (answer) => {
          // What answers something else of that number is none.
          if (answer && answer.kind !== REFUSED && answer.kind !== (KINDS[kind] | ANSWER)) return;
          clearTimeout(timer);
          told(answer);
        });
        this.line.write(frame);
      });
      this.waiting.delete(request);
      if (!answer) continue;
      if (answer.kind === REFUSED) throw new InstrumentRefusal(unpacked<Refusal>(answer.carried));
      return answer.carried;
    }
    throw new FarrierError('unavailable', {
      what: 'The instrument does not answer.',
      why: this.over ? 'The line was cut.' : `It was asked ${tries} times.`,
      next: 'Look at its cable and its battery, then try again.',
    });
  }
  hello = async () => unpacked<Pick<RecorderState, 'model' | 'serial' | 'firmware'>>(await this.ask('hello'));
  state = async <S = RecorderState>() => unpacked<S>(await this.ask('state'));
}

/** What has been fetched of a recording. */
export interface Fetched {
  run: number;
  /** Index of its first reading. */
  from: number;
  width: number;
  /** In hundredths, `width` for each reading. */
  values: Int16Array;
}

/** Fetches readings of a recorder from where one has them, and goes on where it broke. What is fetched is handed on piece by piece in its order, so that a cut
 *  loses nothing. @param from first one that is wanted @throws InstrumentRefusal (`changed` where it was set up anew, or has overwritten them), `unavailable` */
export function fetchReadings(
  link: FieldLink,
  { run, end, first }: Pick<RecorderState, 'run' | 'end' | 'first'>,
  from: number,
  took: (piece: Fetched) => void,
  { password, signal }: { password?: string; signal?: { readonly aborted: boolean } } = {},
): Promise<void> {
  const ask = async (at: number, count: number): Promise<Fetched> => {
    for (;;) {
      const piece = readReadings(await link.ask('readings', { run, from: at, count, ...(password !== undefined && { password }) })); // prettier-ignore
      // An answer to an earlier question of the same number is not what was asked for.
      if (piece.run === run && piece.from === at && piece.width >= 1) return piece;
    }
  };
  return fetchPieces(ask, ({ values, width }) => Math.floor(values.length / width), Math.max(from, first), end, took, signal); // prettier-ignore
}
