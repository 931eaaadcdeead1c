import { badInput, damaged } from '$core/errors';
import { sigmf } from '$core/formats/sigmf/sigmf';
import { wav } from '$core/formats/wav/wav';
import type { Sampled } from '$core/samples/sampled';
import { hz, rateFromHz, samplesBefore } from '$core/time/rate';
import type { KnownUnit } from '$contract/engine';
import { openSource } from '$store/file-source';
import { TakeReader } from '$store/take/reader';
import { openReceiver } from '../../radio/receiver';
import { recordedIq, type RecordedIq } from '../../radio/recorded';
import type { IqSource } from '../../radio/source';
import type { UnitDriver } from '../driver';

/** A poll that comes late is answered for this long at the most. */
const HELD_S = 0.25;

/** The complex signal of a file, and how the file is closed. @throws `bad_input`, `damaged` */
function bandOf(path: string, centreHz: number | null): { band: RecordedIq; close(): void } {
  if (path.endsWith('.take')) {
    const reader = new TakeReader(path);
    const signal = reader.signals.find((s) => s.width === 2 && s.length > 0);
    if (signal)
      return {
        band: recordedIq(reader.sampled(signal.id), signal.snapshot, centreHz),
        close: () => reader.close(),
      };
    reader.close();
    throw badInput('recording', reader.head.name, 'No band was recorded in it: it has no complex samples.');
  }
  const source = openSource(path);
  try {
    const format = path.endsWith('.wav') ? wav : sigmf;
    const { signals } = format.reading!.read(source, format.reading!.defaults as never);
    const complex = signals.find((s) => s.width === 2) ?? pairOf(signals);
    if (!complex || complex.length === 0)
      throw damaged(
        path,
        'It holds no I and Q.',
        'Choose a recording with complex samples, or with two channels.',
      );
    return { band: recordedIq(complex, null, centreHz), close: () => source.close() };
  } catch (error) {
    source.close();
    throw error;
  }
}

/** Two real channels as I and Q. */
function pairOf([i, q]: Sampled[]): Sampled | undefined {
  if (!i || !q || i.length !== q.length || hz(i.rate) !== hz(q.rate)) return undefined;
  return {
    ...i,
    name: 'I and Q',
    width: 2,
    read(first, count) {
      const [a, b] = [i.read(first, count).slice(), q.read(first, count)];
      const out = new Float32Array(2 * a.length);
      for (let k = 0; k < a.length; k++) {
        out[2 * k] = a[k];
        out[2 * k + 1] = b[k];
      }
      return out;
    },
  };
}

/** A band that was recorded, heard again: at its own speed or slower, once or again and again. */
export const recordedBand: UnitDriver = {
  kind: 'recorded band',
  open(unit: KnownUnit, clock) {
    const { again, speed, centre } = unit.config.settings as {
      again: string;
      speed: number;
      centre: number | null;
    };
    if (!unit.path) throw badInput('recording', 'not chosen', 'Choose a take or a file on the unit’s page.');
    const { band, close } = bandOf(unit.path, centre === null ? null : centre * 1e6);
    const paceHz = band.state.sampleRateHz * speed;
    const pace = rateFromHz(paceHz);
    const originNs = clock();
    const loops = again !== 'nothing more';
    let delivered = 0;
    const source: IqSource = {
      paceHz,
      state: () => band.state,
      get next() {
        return delivered;
      },
      read(nowNs) {
        const end = samplesBefore(pace, nowNs - originNs);
        const first = Math.max(delivered, end - Math.ceil(HELD_S * paceHz));
        if (end <= first) return [];
        delivered = end;
        return [{ first, iq: played(band, first, end - first, loops), overload: false }];
      },
      close,
    };
    return openReceiver(unit, source, { standIn: true });
  },
};

/** Samples of a recording that may begin again at its end; NaN behind the end of one that does not. */
function played(band: RecordedIq, first: number, count: number, loops: boolean): Float32Array {
  const out = new Float32Array(2 * count).fill(NaN);
  for (let done = 0; done < count;) {
    const at = loops ? (first + done) % band.length : first + done;
    const n = Math.min(count - done, band.length - at);
    if (n <= 0) break;
    out.set(band.read(at, n), 2 * done);
    done += n;
  }
  return out;
}
