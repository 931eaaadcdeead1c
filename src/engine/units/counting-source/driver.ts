import { rateFromHz, samplesBefore, type Rate } from '$core/time/rate';
import type { UnitModule } from '$contract/unit';
import { described, groupByRate, type AcquireRequest, type OpenUnit, type UnitDriver } from '../driver';

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
  const own = module(channels);
  let groups: {
    rate: Rate;
    startNs: bigint;
    delivered: number;
    requests: AcquireRequest[];
    buffer: Float32Array;
  }[] = [];
  return {
    describe: () =>
      described({ serial, kind: 'counting source', name }, { firmware: '1', modules: [own], standIn: true }),
    start(requests, startNs) {
      groups = [...groupByRate(requests, [own])].map(([rateHz, list]) => ({
        rate: rateFromHz(rateHz),
        startNs,
        delivered: 0,
        requests: list,
        buffer: new Float32Array(8192),
      }));
      return groups.map(({ rate, requests: list }) => ({ rate, startNs, requests: list }));
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
            columns: g.requests.map(() => column),
            trouble: g.requests.map(() => 'none' as const),
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
  open: ({ serial, name }) => openCountingSource(serial, name, 32),
};
