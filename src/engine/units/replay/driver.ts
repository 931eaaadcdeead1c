import { badInput, damaged } from '$core/errors';
import { wav } from '$core/formats/wav/wav';
import type { Sampled } from '$core/samples/sampled';
import { hz, samplesBefore, type Rate } from '$core/time/rate';
import { openSource } from '$store/file-source';
import { TakeReader } from '$store/take/reader';
import { described, type AcquireRequest, type OpenUnit, type RawBlock, type UnitDriver } from '../driver';

/** One recorded signal: its samples from any place on. */
interface Track {
  id: string;
  name: string;
  rate: Rate;
  samples: number;
  unit: string;
  range: { min: number; max: number } | null;
  /** @returns `count` values from `first` on, in `unit` */
  read(first: number, count: number): Float32Array;
}

/** What is played, and how its file is closed. */
interface Opened {
  tracks: Track[];
  close(): void;
}

function wavTracks(path: string): Opened {
  const source = openSource(path);
  let signals: Sampled[];
  try {
    ({ signals } = wav.reading!.read(source, wav.reading!.defaults));
  } catch (error) {
    source.close();
    throw error;
  }
  const tracks = signals.map(({ name, rate, length, read }, k) => ({
    id: `W/${k + 1}`,
    name,
    rate,
    samples: length,
    unit: '1',
    range: { min: -1, max: 1 },
    read,
  }));
  return { tracks, close: () => source.close() };
}

function takeTracks(path: string): Opened {
  const reader = new TakeReader(path);
  const tracks = reader.signals
    .filter((s) => s.channelId !== null && s.length > 0)
    .map((s) => ({
      id: `T/${s.id}`,
      name: s.name,
      rate: s.rate,
      samples: s.length,
      unit: s.unit,
      range:
        (s.snapshot as { settings?: { range?: { min: number; max: number } } } | null)?.settings?.range ??
        null,
      read: (first: number, count: number) => reader.values(s.id, first, count),
    }));
  return { tracks, close: () => reader.close() };
}

/** Plays what was recorded, at its own speed: samples come in the time in which they were taken. */
export const replay: UnitDriver = {
  kind: 'replay',
  open(unit): OpenUnit {
    const { path } = unit;
    const { again } = unit.config.settings as { again: string };
    if (!path) throw badInput('recording', 'not chosen', 'Choose a take or a WAV file on the unit’s page.');
    const { tracks, close } = path.endsWith('.wav') ? wavTracks(path) : takeTracks(path);
    if (tracks.length === 0)
      throw damaged(unit.name, 'Nothing is recorded in it.', 'Choose another recording.');
    const loops = again !== 'nothing more';
    let originNs: bigint | null = null;
    let groups: {
      rate: Rate;
      startNs: bigint;
      delivered: number;
      requests: AcquireRequest[];
      tracks: Track[];
    }[] = [];
    return {
      describe: () =>
        described(unit, {
          standIn: true,
          modules: [
            {
              id: path.endsWith('.wav') ? 'W' : 'T',
              title: 'recorded channels',
              terminals: tracks.map((t) => ({
                id: t.id,
                kind: 'value' as const,
                label: t.name,
                sheet: { unit: t.unit, slope: 1, offset: 0, ...(t.range ?? {}) },
              })),
              ratesHz: [...new Set(tracks.map((t) => hz(t.rate)))].sort((a, b) => a - b),
              bandwidthShare: 0,
            },
          ],
        }),
      start(requests, nowNs) {
        originNs ??= nowNs;
        const byRate = new Map<string, AcquireRequest[]>();
        for (const r of requests) {
          const track = tracks.find((t) => t.id === r.terminal);
          if (!track)
            throw badInput(
              'track',
              r.terminal,
              'It is not in this recording: choose another terminal for the channel.',
            );
          const key = `${track.rate.num}/${track.rate.den}`;
          byRate.set(key, [...(byRate.get(key) ?? []), r]);
        }
        groups = [...byRate.values()].map((list) => {
          const own = list.map((r) => tracks.find((t) => t.id === r.terminal)!);
          return { rate: own[0].rate, startNs: nowNs, delivered: 0, requests: list, tracks: own };
        });
        return groups.map(({ rate, startNs, requests: list }) => ({ rate, startNs, requests: list }));
      },
      poll(nowNs) {
        return groups.flatMap((g, group): RawBlock[] => {
          const count = samplesBefore(g.rate, nowNs - g.startNs) - g.delivered;
          if (count <= 0) return [];
          const firstIndex = g.delivered;
          // Where in the recording this group's sample 0 lies: set-ups may start anew while it plays.
          const from = samplesBefore(g.rate, g.startNs - originNs!) + firstIndex;
          const columns = g.tracks.map((t) => play(t, from, count, loops));
          g.delivered += count;
          const over = g.tracks.map((t) => !loops && from >= t.samples);
          return [{ group, firstIndex, count, columns, trouble: over.map((o) => (o ? 'silent' : 'none')) }];
        });
      },
      setOutput: () => {
        throw badInput('output', unit.name, 'A recording has no outputs.');
      },
      probe(terminal) {
        const track = tracks.find((t) => t.id === terminal);
        return {
          unit: track?.unit ?? '1',
          mean: track?.read(0, 1)[0] ?? NaN,
          noise: 0,
          samples: 1,
          trouble: 'none',
          remark: 'The first value of the recording; it plays once a channel is made of it.',
        };
      },
      close,
    };
  },
};

function play(track: Track, from: number, count: number, loops: boolean): Float32Array {
  const out = new Float32Array(count).fill(NaN);
  for (let done = 0; done < count;) {
    const at = loops ? (from + done) % track.samples : from + done;
    const n = Math.min(count - done, track.samples - at);
    if (n <= 0) break;
    out.set(track.read(at, n), done);
    done += n;
  }
  return out;
}
