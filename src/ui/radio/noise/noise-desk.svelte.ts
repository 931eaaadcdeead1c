import { fixed } from '$core/readings';
import type { Correction } from '$contract/radio-kept';
import type {
  NoisePoint,
  NoiseResult,
  NoiseSettings,
  NoiseSource,
  NoiseState,
  NoiseView,
} from '$contract/radio-noise';
import { call, faultText } from '../../api';
import { saveText } from '../../files/save';
import { oneAtATime } from '../../shell/one-at-a-time';
import type { Shell } from '../../shell/shell.svelte';

/** What a page of noise figures shows, and does. */
export class NoiseDesk {
  all = $state.raw<NoiseView[]>([]);
  results = $state.raw<NoiseResult[]>([]);
  sources = $state.raw<NoiseSource[]>([]);
  corrections = $state.raw<Correction[]>([]);
  unit = $state('');
  /** Place of the pointer among the points. */
  at = $state(0);
  /** Span that is looked at closer, Hz. */
  span = $state.raw<{ from: number; to: number } | null>(null);
  /** Results laid behind; null until somebody chooses. */
  behind = $state.raw<string[] | null>(null);
  readonly view = $derived(this.all.find((v) => v.unit === this.unit) ?? this.all.at(0));

  constructor(private readonly shell: Shell) {}

  private get params() {
    return { unit: this.view?.unit ?? '' };
  }
  readonly look = oneAtATime(async () => {
    [this.all, this.results] = await Promise.all([
      call('GET /api/radio/noise'),
      call('GET /api/radio/noise/results'),
    ]);
  });

  /** The step that comes next: 1 source straight in, 2 device between and off, 3 on, 4 read it. */
  readonly step = $derived.by((): 1 | 2 | 3 | 4 => {
    const { view } = this;
    if (!view) return 1;
    if (view.running)
      return view.running.state.startsWith('own') ? 1 : view.running.state === 'through off' ? 2 : 3;
    const whole = (s: NoiseState) => view.hz.length > 0 && view.done[s] === view.hz.length;
    if (!view.own || view.stale.length) return 1;
    if (!whole('through off')) return 2;
    return whole('through on') ? 4 : 3;
  });
  readonly ends = $derived.by(() => {
    const hz = this.view?.hz ?? [];
    return this.span ?? { from: hz[0] ?? 0, to: hz.at(-1) ?? 1 };
  });
  readonly point = $derived(this.view?.points.at(Math.min(this.at, (this.view?.points.length ?? 1) - 1)));
  readonly measured = $derived(this.view?.points.some((p) => p.figureDb !== null) ?? false);

  async change(body: Partial<NoiseSettings>): Promise<void> {
    this.all = await call('PUT /api/radio/[unit]/noise', { params: this.params, body });
    this.span = null;
  }
  async device(device: string): Promise<void> {
    this.all = await call('PUT /api/radio/[unit]/noise/device', { params: this.params, body: { device } });
  }
  async forNow(points: NoiseSource['points'] | null): Promise<void> {
    this.all = await call('PUT /api/radio/[unit]/noise/now', { params: this.params, body: { points } });
  }
  private async doing(work: () => Promise<unknown>): Promise<void> {
    try {
      await work();
      this.shell.say(null);
    } catch (error) {
      this.shell.say(faultText(error));
    }
  }
  measure = (states: NoiseState[]): Promise<void> =>
    this.doing(
      async () =>
        (this.all = await call('POST /api/radio/[unit]/noise/measure', {
          params: this.params,
          body: { states },
        })),
    );
  stop = (): Promise<void> =>
    this.doing(() => call('POST /api/radio/[unit]/noise/stop', { params: this.params }));
  drop = (id: string): Promise<void> =>
    this.doing(async () => {
      await call('DELETE /api/radio/noise/results/[id]', { params: { id } });
      await this.look();
    });
  /** The stand-in’s input is connected as the step wants it. */
  connect = (through: boolean, on: boolean): Promise<void> =>
    this.doing(async () => {
      const serial = this.view?.unit ?? '';
      const set = (control: string, value: number) =>
        call('POST /api/units/[serial]', { params: { serial }, body: { control, value } });
      await set('input', through ? 2 : 1);
      if (!this.view?.settings.drive) await set('source', on ? 1 : 0);
    });

  /** The pointer goes to the nearest point of a frequency, by some points, or to an end of the noise figure. */
  pointTo = (hz: number): void => {
    this.at = Math.max(0, this.view?.hz.indexOf(hz) ?? 0);
  };
  stepBy = (by: number): void => {
    const most = (this.view?.hz.length ?? 1) - 1;
    this.at = Math.max(0, Math.min(most, this.at + by));
  };
  toEnd = (end: 'lowest' | 'highest'): void => {
    const k = extreme(this.view?.points ?? [], end);
    if (k >= 0) this.at = k;
  };

  /** The table as text, by a separator. */
  text(by: string): string {
    const head = ['frequency (MHz)', 'noise figure (dB)', '± (dB)', 'gain (dB)', '± (dB)', 'Y (dB)', 'effective temperature (K)', 'remark']; // prettier-ignore
    const value = (v: number | null, decimals: number) =>
      v === null || !Number.isFinite(v) ? '' : v.toFixed(decimals);
    const rows = (this.view?.points ?? []).map((p) => [
      String(p.hz / 1e6),
      value(p.figureDb, 3),
      value(p.figureDb === null ? null : p.figureExpanded, 3),
      value(p.gainDb, 3),
      value(p.gainDb === null ? null : p.gainExpanded, 3),
      value(10 * Math.log10(p.y), 3),
      value(p.effectiveK, 1),
      p.findings.map((f) => f.says).join('; '),
    ]);
    const quoted = (cell: string) =>
      by === ',' && /[",]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell;
    return [head, ...rows].map((r) => r.map(quoted).join(by)).join('\r\n') + '\r\n';
  }
  save = (): void =>
    saveText(this.text(','), `Noise figure of ${this.view?.device || 'a device'}.csv`, 'text/csv');
  copy = (): Promise<void> => this.doing(() => navigator.clipboard.writeText(this.text('\t')));
}

/** Place of the lowest or highest noise figure; −1 where none is. */
export function extreme(points: readonly NoisePoint[], end: 'lowest' | 'highest'): number {
  const sign = end === 'lowest' ? 1 : -1;
  return points.reduce(
    (best, p, k) =>
      p.figureDb !== null && (best < 0 || sign * p.figureDb < sign * points[best].figureDb!) ? k : best,
    -1,
  );
}

/** A value with its ±, as many decimals as that allows. */
export const withExpanded = (value: number | null, expanded: number): string => {
  if (value === null || !Number.isFinite(value)) return '—';
  const decimals = expanded >= 1 ? 1 : 2;
  return `${fixed(value, decimals)} ± ${fixed(expanded, decimals)} dB`;
};
