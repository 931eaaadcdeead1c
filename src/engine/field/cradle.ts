import type { Frame } from '$core/field/frames';
import { KINDS, packed, readingsBytes, unpacked } from '$core/field/messages';
import type { RecorderSetup } from '$core/field/recorder/plan';
import { Answering } from './answering';
import { Refused, type PocketRecorder } from './recorder';

/** Numbers of readings that are put into one frame. */
const NUMBERS_MOST = 2040;

/** The cradle: whatever recorder lies in it speaks through it. */
export class Cradle extends Answering {
  private present: PocketRecorder | null = null;

  put(recorder: PocketRecorder): void {
    this.present = recorder;
    this.forget();
  }
  takeOut(): void {
    this.present = null;
    this.forget();
  }
  get holds(): string | null {
    return this.present?.serial ?? null;
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
}
