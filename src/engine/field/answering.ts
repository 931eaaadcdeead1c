import { createServer, type Server, type Socket } from 'node:net';
import type { Duplex } from 'node:stream';
import { crc32 } from 'node:zlib';
import { FrameReader, frameBytes, type Frame } from '$core/field/frames';
import { ANSWER, KINDS, REFUSED, packed, type Refusal } from '$core/field/messages';
import { Refused } from './recorder';

/** Requests that ask how things are now: they are answered anew each time. */
const NOW = new Set<number>([KINDS.hello, KINDS.state, KINDS.live]);

/** An instrument’s side of a line. A request that comes twice is done once and answered twice: answers get lost, too. */
export abstract class Answering {
  private last = new Map<object, { key: string; answer: Uint8Array }>();
  private lines = new Set<Duplex>();

  /** Does what is asked. @returns what the answer carries @throws Refused */
  protected abstract done(frame: Frame): Uint8Array;
  protected forget(): void {
    this.last.clear();
  }

  /** What is answered to a request. @param whom the line that it came by */
  answer(frame: Frame, whom: object): Uint8Array {
    const key = `${frame.request} ${frame.kind} ${crc32(frame.carried)}`;
    const known = this.last.get(whom);
    if (known?.key === key && !NOW.has(frame.kind)) return known.answer;
    let answer: Uint8Array;
    try {
      answer = frameBytes(
        { kind: frame.kind | ANSWER, request: frame.request, carried: this.done(frame) },
        crc32,
      );
    } catch (error) {
      const refusal: Refusal = error instanceof Refused ? error.refusal : { why: 'unknown', says: (error as Error).message.slice(0, 200) }; // prettier-ignore
      answer = frameBytes({ kind: REFUSED, request: frame.request, carried: packed(refusal) });
    }
    this.last.set(whom, { key, answer });
    return answer;
  }

  /** Answers on a line that is open. */
  hear(line: Duplex): void {
    const reader = new FrameReader(crc32);
    this.lines.add(line);
    line.on('data', (piece: Buffer) => {
      for (const frame of reader.push(piece)) line.write(this.answer(frame, line));
    });
    line.on('error', () => line.destroy());
    line.on('close', () => (this.lines.delete(line), this.last.delete(line)));
  }
  /** Lets all lines fall. */
  cut(): void {
    for (const line of this.lines) line.destroy();
  }

  /** Answers over TCP on this machine. @returns the port that it listens on */
  listen(port = 0): Promise<{ server: Server; port: number }> {
    const server = createServer({ noDelay: true }, (line: Socket) => this.hear(line));
    return new Promise((done, fail) => {
      server.once('error', fail);
      server.listen(port, '127.0.0.1', () =>
        done({ server, port: (server.address() as { port: number }).port }),
      );
    });
  }
}
