import { createServer, type Server, type Socket } from 'node:net';
import { crc32 } from '$core/field/checks';
import { FrameReader, MOST_CARRIED, frameBytes, type Frame } from '$core/field/frames';
import { ANSWER, KINDS, REFUSED, packed, readingsBytes, unpacked, type Refusal } from '$core/field/messages';
import type { RecorderSetup } from '$core/field/recorder/plan';
import { PocketRecorder, Refused } from './recorder';

/** Numbers of readings that fit into one frame, beside their head. */
const NUMBERS_MOST = Math.floor((MOST_CARRIED - 16) / 2);

/** The cradle: whatever recorder lies in it speaks through it. A request that comes twice is done once and answered twice: answers get lost, too. */
export class Cradle {
  private present: PocketRecorder | null = null;
  private last = new Map<object, { key: string; answer: Uint8Array }>();

  put(recorder: PocketRecorder): void {
    this.present = recorder;
    this.last.clear();
  }
  takeOut(): void {
    this.present = null;
    this.last.clear();
  }
  get holds(): string | null {
    return this.present?.serial ?? null;
  }

  /** What is answered to a request. @param whom the line that it came by */
  answer(frame: Frame, whom: object): Uint8Array {
    const key = `${frame.request} ${frame.kind} ${crc32(frame.carried)}`;
    const known = this.last.get(whom);
    if (known?.key === key && frame.kind !== KINDS.hello && frame.kind !== KINDS.state) return known.answer;
    let answer: Uint8Array;
    try {
      answer = frameBytes({ kind: frame.kind | ANSWER, request: frame.request, carried: this.done(frame) });
    } catch (error) {
      const refusal: Refusal = error instanceof Refused ? error.refusal : { why: 'unknown', says: (error as Error).message.slice(0, 200) }; // prettier-ignore
      answer = frameBytes({ kind: REFUSED, request: frame.request, carried: packed(refusal) });
    }
    this.last.set(whom, { key, answer });
    return answer;
  }
  protected done({ kind, carried }: Frame): Uint8Array {
    const own = this.present;
    if (!own) throw new Refused({ why: 'empty', says: 'No recorder is in the cradle.' });
    switch (kind) {
      case KINDS.hello: {
        const { model, serial, firmware } = own.state();
        return packed({ model, serial, firmware });
      }
      case KINDS.state:
        return packed(own.state());
      case KINDS.clock:
        own.setClock(unpacked<{ utcMs: number }>(carried).utcMs);
        return packed({});
      case KINDS.setUp: {
        const { setup, ...more } = unpacked<{ setup: RecorderSetup; password?: string; lock?: { password: string; for: 'setting up' | 'fetching too' } | null }>(carried); // prettier-ignore
        own.setUp(setup, more);
        return packed({ run: own.state().run });
      }
      case KINDS.readings: {
        const asked = unpacked<{ run: number; from: number; count: number; password?: string }>(carried);
        const width = own.width;
        const values = own.readings({
          ...asked,
          count: Math.min(asked.count, Math.floor(NUMBERS_MOST / width)),
        });
        return readingsBytes({ run: asked.run, from: asked.from, width, values });
      }
      case KINDS.clearAlarm:
        own.clearAlarm();
        return packed({});
      case KINDS.sleep:
        own.sleep(unpacked<{ password?: string }>(carried).password);
        return packed({});
      default:
        throw new Refused({ why: 'unknown', says: `It does not know the message ${kind}.` });
    }
  }

  /** Answers over TCP on this machine. @returns the port that it listens on */
  listen(port = 0): Promise<{ server: Server; port: number }> {
    const server = createServer({ noDelay: true }, (line: Socket) => {
      const reader = new FrameReader();
      line.on('data', (piece: Buffer) => {
        for (const frame of reader.push(piece)) line.write(this.answer(frame, line));
      });
      line.on('error', () => line.destroy());
      line.on('close', () => this.last.delete(line));
    });
    return new Promise((done, fail) => {
      server.once('error', fail);
      server.listen(port, '127.0.0.1', () =>
        done({ server, port: (server.address() as { port: number }).port }),
      );
    });
  }
}
