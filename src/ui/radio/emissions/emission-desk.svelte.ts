import {
  decodeLines,
  RANGES_MOST,
  type EmissionLine,
  type EmissionRange,
  type EmissionRun,
  type EmissionSettings,
  type EmissionView,
} from '$contract/radio-emissions';
import type { Correction, LimitSet } from '$contract/radio-kept';
import { call, faultText, send } from '../../api';
import { oneAtATime } from '../../shell/one-at-a-time';
import type { Shell } from '../../shell/shell.svelte';

/** What a page of emissions shows, and does. */
export class EmissionDesk {
  all = $state.raw<EmissionView[]>([]);
  runs = $state.raw<EmissionRun[]>([]);
  limits = $state.raw<LimitSet[]>([]);
  corrections = $state.raw<Correction[]>([]);
  unit = $state('');
  /** Place of the range whose sentence is shown. */
  range = $state(0);
  /** The look that stands out; null: the last one. */
  shown = $state<string | null>(null);
  /** Looks laid behind it. */
  behind = $state.raw<string[]>([]);
  /** Suspect that is looked at. */
  chosen = $state<number | null>(null);
  lines = $state.raw<ReadonlyMap<string, EmissionLine[]>>(new Map());

  readonly view = $derived(this.all.find((v) => v.unit === this.unit) ?? this.all.at(0));
  readonly run = $derived(
    this.runs.find(
      (r) => r.id === (this.view?.running?.what === 'look' ? this.view.running.runId : this.shown),
    ) ??
      this.runs.findLast((r) => !r.ambient) ??
      this.runs.at(-1),
  );
  readonly suspect = $derived(this.run?.suspects.find((s) => s.id === this.chosen));

  constructor(private readonly shell: Shell) {}

  private get params() {
    return { unit: this.view?.unit ?? '' };
  }
  readonly look = oneAtATime(async () => {
    [this.all, this.runs] = await Promise.all([
      call('GET /api/radio/emissions'),
      call('GET /api/radio/emissions/runs'),
    ]);
    await this.fetch();
  });
  /** Looks whose lines do not change any more. */
  private readonly whole = new Set<string>();
  /** Lines of what is shown; those of looks that are over do not change any more. */
  readonly fetch = oneAtATime(async () => {
    const wanted = [...new Set([this.run?.id, ...this.behind])].filter((id) => id !== undefined);
    const running = this.view?.running?.what === 'look' ? this.view.running.runId : null;
    const next = new Map<string, EmissionLine[]>();
    for (const id of wanted) {
      const known = this.lines.get(id);
      const over = this.runs.find((r) => r.id === id)?.tookS ?? 0;
      if (known && id !== running && this.whole.has(id)) next.set(id, known);
      else {
        const answer = await send('GET /api/radio/emissions/runs/[id]', { params: { id } });
        next.set(id, decodeLines(new Uint8Array(await answer.arrayBuffer())));
        if (id !== running && over > 0) this.whole.add(id);
      }
    }
    this.lines = next;
  });

  private async doing(work: () => Promise<unknown>): Promise<void> {
    try {
      await work();
      this.shell.say(null);
    } catch (error) {
      this.shell.say(faultText(error));
    }
  }
  async change(body: Partial<EmissionSettings>): Promise<void> {
    this.all = await call('PUT /api/radio/[unit]/emissions', { params: this.params, body });
  }
  async changeRange(change: Partial<EmissionRange>): Promise<void> {
    const ranges = this.view?.settings.ranges.map((r, k) => (k === this.range ? { ...r, ...change } : r));
    if (ranges) await this.change({ ranges });
  }
  /** Another range behind the chosen one, half of it; or the chosen one goes. */
  splitRange = (): Promise<void> =>
    this.doing(async () => {
      const ranges = this.view?.settings.ranges ?? [];
      const r = ranges[this.range];
      if (!r || ranges.length >= RANGES_MOST) return;
      const middle = Number(Math.sqrt(r.from * r.to).toPrecision(3));
      const next = [...ranges];
      next.splice(this.range, 1, { ...r, to: middle }, { ...r, from: middle });
      await this.change({ ranges: next });
    });
  dropRange = (): Promise<void> =>
    this.doing(async () => {
      const ranges = this.view?.settings.ranges ?? [];
      if (ranges.length < 2) return;
      await this.change({ ranges: ranges.filter((_, k) => k !== this.range) });
      this.range = Math.max(0, this.range - 1);
    });

  begin = (ambient: boolean): Promise<void> =>
    this.doing(async () => {
      this.chosen = null;
      this.shown = null;
      this.all = await call('POST /api/radio/[unit]/emissions/look', {
        params: this.params,
        body: { ambient },
      });
      this.shown = this.view?.running?.runId ?? null;
      await this.look();
    });
  stop = (): Promise<void> =>
    this.doing(() => call('POST /api/radio/[unit]/emissions/stop', { params: this.params }));
  measure = (suspects: number[]): Promise<void> =>
    this.doing(async () => {
      const { run, view } = this;
      if (!run || !view) return;
      this.all = await call('POST /api/radio/emissions/runs/[id]/measure', {
        params: { id: run.id },
        body: { unit: view.unit, suspects },
      });
    });
  note = (suspect: number, body: { note?: string; ambient?: boolean }): Promise<void> =>
    this.doing(async () => {
      if (!this.run) return;
      await call('PUT /api/radio/emissions/runs/[id]/suspects/[suspect]', {
        params: { id: this.run.id, suspect: String(suspect) },
        body,
      });
      await this.look();
    });
  drop = (id: string): Promise<void> =>
    this.doing(async () => {
      await call('DELETE /api/radio/emissions/runs/[id]', { params: { id } });
      if (this.shown === id) this.shown = null;
      this.behind = this.behind.filter((b) => b !== id);
      await this.look();
    });
  addPicture = (file: File): Promise<void> =>
    this.doing(async () => {
      if (!this.run) return;
      await send('POST /api/radio/emissions/runs/[id]/pictures', { params: { id: this.run.id }, file });
      await this.look();
    });
  dropPicture = (at: number): Promise<void> =>
    this.doing(async () => {
      if (!this.run) return;
      await call('DELETE /api/radio/emissions/runs/[id]/pictures/[picture]', {
        params: { id: this.run.id, picture: String(at) },
      });
      await this.look();
    });

  show = (id: string): void => {
    this.shown = id;
    this.chosen = null;
    void this.fetch();
  };
  lay = (id: string, on: boolean): void => {
    this.behind = on ? [...this.behind, id] : this.behind.filter((b) => b !== id);
    void this.fetch();
  };
  /** The next suspect of the list. */
  next = (by: 1 | -1): void => {
    const list = this.run?.suspects ?? [];
    if (!list.length) return;
    const at = list.findIndex((s) => s.id === this.chosen);
    this.chosen = list[(at + by + list.length) % list.length].id;
  };
}
