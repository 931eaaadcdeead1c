import type { FoundTakes, Offered, StripPicture } from '$contract/api/inspect';
import { ALL_TAKES, type TakeFilter, type TakeLine } from '$contract/take-list';
import { call, faultText, type FaultText } from '../api';

/** A line of the drawer: a group’s head, or the take at a place of the list. */
export type DrawerItem = { group: string; count: number } | { index: number };

const PAGE = 40;

/** The list of takes as the drawer shows it: what is found is fetched part by part, as it comes into view. */
export class TakeList {
  filter = $state.raw<TakeFilter>(ALL_TAKES);
  order = $state('newest');
  group = $state('folder');
  found = $state.raw<Omit<FoundTakes, 'takes' | 'from'>>({ all: 0, ids: [], groups: [] });
  offered = $state.raw<Offered>({ facts: {}, tags: [], folders: [], plans: [], channels: [] });
  /** Lines by their place. */
  lines = $state.raw(new Map<number, TakeLine>());
  strips = $state.raw(new Map<string, StripPicture>());
  stripOf = $state('');
  fault = $state<FaultText | null>(null);
  ready = $state(false);
  private asked = 0;
  private loading = new Set<number>();
  private wantedStrips = new Set<string>();
  private drawing: ReturnType<typeof setTimeout> | undefined;

  /** Heads and takes in their order. */
  readonly items = $derived.by((): DrawerItem[] => {
    const items: DrawerItem[] = [];
    let index = 0;
    for (const { name, count } of this.found.groups) {
      if (this.group !== 'nothing') items.push({ group: name, count });
      for (let k = 0; k < count; k++) items.push({ index: index++ });
    }
    return items;
  });

  /** Looks for the takes anew: the filter is another one, or takes came, went or changed. */
  async search(change: { filter?: TakeFilter; order?: string; group?: string } = {}): Promise<void> {
    Object.assign(this, change);
    const asked = ++this.asked;
    try {
      const got = await this.fetch(0);
      if (asked !== this.asked) return;
      this.found = got;
      this.lines = new Map(got.takes.map((t, k) => [k, t]));
      this.loading = new Set([0]);
      this.fault = null;
    } catch (error) {
      if (asked === this.asked) this.fault = faultText(error);
    } finally {
      this.ready = true;
    }
  }
  async offers(): Promise<void> {
    try {
      this.offered = await call('GET /api/takes/offered');
    } catch {
      // filters are made without offers, then
    }
  }

  private fetch = (from: number) =>
    call('GET /api/takes', {
      query: { filter: JSON.stringify(this.filter), order: this.order, group: this.group, from, count: PAGE },
    });

  /** Makes sure that lines at some places are there, with their small pictures. */
  see(indices: readonly number[]): void {
    for (const page of new Set(indices.map((i) => Math.floor(i / PAGE)))) {
      if (this.loading.has(page)) continue;
      this.loading.add(page);
      const asked = this.asked;
      void this.fetch(page * PAGE).then(
        (got) => {
          if (asked !== this.asked) return;
          this.lines = new Map([...this.lines, ...got.takes.map((t, k) => [page * PAGE + k, t] as const)]);
        },
        (error) => (this.fault = faultText(error)),
      );
    }
    if (!this.stripOf) return;
    for (const i of indices) {
      const line = this.lines.get(i);
      if (line && !this.strips.has(line.id) && line.channels.some((c) => c.name === this.stripOf))
        this.wantedStrips.add(line.id);
    }
    if (this.wantedStrips.size === 0) return;
    clearTimeout(this.drawing);
    this.drawing = setTimeout(() => void this.draw(), 60);
  }
  private async draw(): Promise<void> {
    const takes = [...this.wantedStrips].slice(0, 200);
    const channel = this.stripOf;
    this.wantedStrips.clear();
    try {
      const got = await call('GET /api/strips', { query: { takes, channel } });
      if (channel === this.stripOf) this.strips = new Map([...this.strips, ...Object.entries(got)]);
    } catch {
      // lines without pictures say enough
    }
  }
  /** Another channel is drawn on the lines. */
  drawStrips(channel: string): void {
    this.stripOf = channel;
    this.strips = new Map();
    this.wantedStrips.clear();
  }
  /** The small picture of a take is another one now. */
  forgetStrip(id: string): void {
    const next = new Map(this.strips);
    next.delete(id);
    this.strips = next;
  }
}
