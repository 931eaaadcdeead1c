import type { Sampled } from '$core/samples/sampled';
import { studyKind } from '$core/studies/registry';
import { report } from './report';

const CHANNELS = 16;
const SAMPLES = 100_000_000;
const GOAL_MB = 300;

/** What studies hold at the most over 100 million samples in sixteen channels, which come as a take gives them: some at a time, in buffers of their own. */
export function studyMemory(quick: boolean): void {
  const length = Math.floor(SAMPLES / CHANNELS / (quick ? 10 : 1));
  const channels = Array.from({ length: CHANNELS }, (_, k): Sampled => ({
    id: `c${k}`,
    name: `Channel ${k}`,
    quantity: '',
    unit: 'µε',
    rate: { num: 25_600, den: 1 },
    startNs: 0,
    width: 1,
    length,
    read: (first, count) => Float32Array.from({ length: count }, (_v, i) => Math.sin((first + i) / (7 + k))),
  }));
  const take = { id: 't', name: 'T', facts: {}, durationS: length / 25_600 };
  const most = (kind: string, signals: Record<string, Sampled[]>, settings: Record<string, unknown>) => {
    const found = studyKind(kind);
    const before = process.memoryUsage().rss;
    let peak = 0;
    const look = () => void (peak = Math.max(peak, process.memoryUsage().rss));
    found.run([{ ...take, signals }], { ...found.defaults, ...settings }, look, { aborted: false });
    look();
    return Math.max(0, peak - before) / 1e6;
  };
  const say = (name: string, mb: number) =>
    report({ name: `memory of ${name} over ${(length * CHANNELS) / 1e6} million samples in ${CHANNELS} channels`, value: mb, unit: 'MB', reference: `the goal of ${GOAL_MB} MB`, ratio: mb / GOAL_MB }); // prettier-ignore
  say('statistics', most('statistics', { channels }, {}));
  say('spectra', most('spectrum', { channels: channels.slice(0, 12) }, {}));
  say('rainflow', most('rainflow', { channel: [channels[0]] }, {}));
}
