import { rateFromHz, samplesBefore, type Rate } from '$core/time/rate';
import type { UnitModule } from '$contract/unit';
import { groupByRate, type OpenUnit, type UnitDriver } from '../driver';

/** Values repeat after this many samples: every count below is exact in float32. */
export const COUNT_MODULUS = 1 << 20;

const module = (channels: number): UnitModule => ({
  id: 'C1',
  title: 'counting',
  terminals: Array.from({ length: channels }, (_, i) => ({ id: `C1/${i + 1}`, kind: 'analog' as const })),
  ratesHz: [10, 100, 1000, 10_000, 51_200, 102_400],
  bandwidthShare: 0.5,
});

/** A unit whose every sample is its own index: shows that nothing is lost, doubled or reordered on the way. */
export function openCountingSource(serial: string, name: string, channels: number): OpenUnit {
  let groups: {
    rate: Rate;
    startNs: bigint;
    delivered: number;
    terminals: string[];
    buffer: Float32Array;
  }[] = [];
  return {
    describe: () => ({
      serial,
      kind: 'counting source',
      name,
      firmware: '1',
      calibratedUntil: '',
      modules: [module(channels)],
      controls: [],
      faults: {},
      standIn: true,
    }),
    start(requests, startNs) {
      groups = [...groupByRate(requests)].map(([rateHz, list]) => ({
        rate: rateFromHz(rateHz),
        startNs,
        delivered: 0,
        terminals: list.map((r) => r.terminal),
        buffer: new Float32Array(8192),
      }));
      return groups.map(({ rate, terminals }) => ({ rate, startNs, terminals }));
    },
    poll(nowNs) {
      return groups.flatMap((g, group) => {
        const count = samplesBefore(g.rate, nowNs - g.startNs) - g.delivered;
        if (count <= 0) return [];
        if (g.buffer.length < count) g.buffer = new Float32Array(count);
        const firstIndex = g.delivered;
        for (let i = 0; i < count; i++) g.buffer[i] = (firstIndex + i) % COUNT_MODULUS;
        g.delivered += count;
        const column = g.buffer.subarray(0, count);
        return [
          {
            group,
            firstIndex,
            count,
            columns: g.terminals.map(() => column),
            trouble: g.terminals.map(() => 'none' as const),
          },
        ];
      });
    },
    setOutput: () => undefined,
    probe: () => ({ unit: 'V', mean: 0, noise: 0, samples: 0, trouble: 'none', remark: null }),
    close: () => undefined,
  };
}

export const countingSource: UnitDriver = {
  kind: 'counting source',
  title: 'Counting source, 32 channels, for proving a recording chain (stand-in)',
  discover: (known) => known.filter((u) => u.kind === 'counting source'),
  open: (serial, name) => openCountingSource(serial, name, 32),
};
