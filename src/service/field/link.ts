import { connect } from 'node:net';
import { FarrierError } from '$core/errors';
import { FrameReader, frameBytes } from '$core/field/frames';
import { ANSWER, KINDS, REFUSED, packed, readReadings, unpacked, type Kind, type Refusal } from '$core/field/messages'; // prettier-ignore
import type { RecorderState } from '$core/field/recorder/state';

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
  private readonly reader = new FrameReader();
  private waiting = new Map<number, (answer: { kind: number; carried: Uint8Array } | null) => void>();
  private request = Math.floor(Math.random() * 0x10000);
  private over = false;

  constructor(
    private readonly line: Line,
    private readonly patience = PATIENCE,
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

  /** @throws InstrumentRefusal, or `unavailable` where no answer comes */
  async ask(kind: Kind, content: unknown = {}): Promise<Uint8Array> {
    this.request = (this.request + 1) % 0x10000;
    const { request } = this;
    const frame = frameBytes({ kind: KINDS[kind], request, carried: packed(content) });
    for (let n = 0; n < this.patience.tries && !this.over; n++) {
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
      why: this.over ? 'The line was cut.' : `It was asked ${this.patience.tries} times.`,
      next: 'Look at its cable and its battery, then try again.',
    });
  }
  hello = async () => unpacked<Pick<RecorderState, 'model' | 'serial' | 'firmware'>>(await this.ask('hello'));
  state = async () => unpacked<RecorderState>(await this.ask('state'));
}

/** Opens a line over TCP. @throws `unavailable` */
export function openTcp(host: string, port: number, ms = 2000): Promise<Line> {
  return new Promise((done, fail) => {
    const socket = connect({ host, port, noDelay: true });
    const refused = (why: string) => fail(new FarrierError('unavailable', { what: `Nothing answers at ${host}:${port}.`, why, next: 'Look whether it is switched on.' })); // prettier-ignore
    const late = setTimeout(() => (socket.destroy(), refused('It took too long.')), ms);
    socket.once('error', (error) => (clearTimeout(late), refused(error.message)));
    socket.once('connect', () => {
      clearTimeout(late);
      socket.removeAllListeners('error');
      socket.on('error', () => socket.destroy());
      done({
        write: (bytes) => void (socket.writable && socket.write(bytes)),
        onBytes: (hear) => void socket.on('data', hear),
        onEnd: (hear) => void socket.on('close', hear),
        close: () => socket.destroy(),
      });
    });
  });
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

/** Questions that are on the line at once: while one is answered the next ones are on their way. */
const AT_ONCE = 8;

/** Fetches readings of a recorder from where one has them, and goes on where it broke. What is fetched is handed on piece by piece in its order, so that a cut
 *  loses nothing. @param from first one that is wanted @throws InstrumentRefusal (`changed` where it was set up anew, or has overwritten them), `unavailable` */
export async function fetchReadings(
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
  const length = ({ values, width }: Fetched) => Math.floor(values.length / width);
  let at = Math.max(from, first);
  if (at >= end) return;
  // The first answer says how many come at a time.
  const one = await ask(at, end - at);
  const each = length(one);
  if (each === 0) return;
  took(one);
  at += each;
  const asked: Promise<Fetched>[] = [];
  let next = at;
  while (at < end && !signal?.aborted) {
    for (; asked.length < AT_ONCE && next < end; next += each) {
      const question = ask(next, Math.min(each, end - next));
      question.catch(() => undefined); // the one before may fail first
      asked.push(question);
    }
    const piece = await asked.shift()!;
    if (piece.from !== at || length(piece) === 0) return;
    took(piece);
    at += length(piece);
    // Fewer than were asked for: what was asked behind them would leave a hole.
    if (at < end && length(piece) < each) {
      await Promise.allSettled(asked.splice(0));
      next = at;
    }
  }
  await Promise.allSettled(asked);
}
