import { rateHz } from '$core/samples/sampled';
import { timeDecimals } from '$core/readings';
import { SINCE_START, type TimeScale } from '$core/figures/clock';
import type { AlignedTake } from '$contract/api/inspect';
import { USUAL_DRAWING, type Drawing } from '$contract/drawing';
import type { TakeView } from '$contract/take';
import { call, faultText, type FaultText } from '../api';
import { addressText, type Looked } from './address';
import { channelsShown, panelsOf, signalOf, wholeSpan } from './panels';

type Window = [number, number];

/** What is looked at on the page: which takes, how they are drawn, the window, the cursors. */
export class Inspection {
  /** Takes that are laid over each other, the one that stands out among them. */
  takes = $state.raw<TakeView[]>([]);
  /** Takes that cannot be read, with the reason. */
  unread = $state.raw<{ name: string; fault: FaultText | null }[]>([]);
  front = $state('');
  drawing = $state.raw<Drawing>(USUAL_DRAWING);
  recorded = $state(false);
  series = $state<string | null>(null);
  cursors = $state<[number | null, number | null]>([null, null]);
  chosen = $state<0 | 1>(0);
  /** What cursors stick to: nothing, or what is near where they are put. */
  snap = $state<'nothing' | 'peaks' | 'valleys' | 'crossings'>('nothing');
  /** Where each take lies, by its id. */
  aligned = $state.raw<Map<string, AlignedTake>>(new Map());
  aligning = $state<FaultText | null>(null);
  /** Told whenever the address should say something else. */
  tell: () => void = () => undefined;
  /** The job's clock, as the IANA list names it. */
  zone = $state('');
  private shownWindow = $state.raw<Window | null>(null);
  private former = $state.raw<Window[]>([]);
  private later = $state.raw<Window[]>([]);

  /** Instant of a take that lies at 0 of the common axis, s. */
  readonly zero = (id: string): number => this.aligned.get(id)?.atS ?? 0;

  readonly main = $derived(this.takes.find((t) => t.head.id === this.front) ?? this.takes[0]);
  /** The one that stands out first. */
  readonly ordered = $derived(this.main ? [this.main, ...this.takes.filter((t) => t !== this.main)] : []);
  readonly names = $derived(channelsShown(this.drawing, this.ordered));
  readonly drawn = $derived(panelsOf(this.drawing, this.ordered));
  readonly whole = $derived(wholeSpan(this.takes, this.zero));
  readonly window = $derived<Window>(this.shownWindow ?? this.whole);
  readonly canGoBack = $derived(this.former.length > 0);
  readonly canGoForward = $derived(this.later.length > 0);
  /** As many digits of time as the fastest channel that is shown deserves. */
  readonly fastest = $derived(
    Math.max(1, ...this.takes.flatMap((t) => this.names.flatMap((n) => signalOf(t, n) ?? [])).map(rateHz)),
  );
  readonly digits = $derived(timeDecimals(this.fastest));

  /** How times are written: by the clock of the take that stands out, since its start, since a mark. */
  readonly scale = $derived.by((): TimeScale => {
    const { main, drawing } = this;
    if (!main) return SINCE_START;
    if (drawing.time === 'by the clock' || drawing.time === 'in UTC') {
      const at = Number(BigInt(main.head.startNs) / 1000n) / 1e6 + this.zero(main.head.id);
      return { clockS: at + (drawing.time === 'in UTC' ? 0 : offsetS(at, this.zone)), zeroS: 0 };
    }
    if (drawing.time === 'since a mark') {
      const mark = main.notes.find((n) =>
        drawing.mark ? n.says.startsWith(drawing.mark) : n.kind === 'mark' || n.kind === 'note',
      );
      return { clockS: null, zeroS: mark ? mark.atS - this.zero(main.head.id) : 0 };
    }
    return SINCE_START;
  });

  /** Begins with what an address says. @param takes those it names, the one that stands out first */
  begin(takes: (TakeView | { id: string; name: string; fault: FaultText | null })[], looked: Looked): void {
    const read = takes.filter((t): t is TakeView => 'head' in t);
    this.unread = takes.flatMap((t) => ('head' in t ? [] : [{ name: t.name, fault: t.fault }]));
    this.takes = read;
    this.front = read[0]?.head.id ?? '';
    this.drawing = looked.drawing;
    this.shownWindow = looked.window;
    this.cursors = looked.cursors;
    this.chosen = 0;
    this.recorded = looked.recorded;
    this.series = looked.series;
    [this.former, this.later] = [[], []];
    void this.align().then(() => this.beginCursors());
  }
  /** A cursor stands somewhere from the start, so that readings are seen at once. */
  private beginCursors(): void {
    const [from, to] = this.window;
    if (this.takes.length && this.cursors[0] === null && this.cursors[1] === null)
      this.cursors = [from + (to - from) / 3, null];
  }

  get looked(): Looked {
    return {
      beside: this.takes.filter((t) => t !== this.main).map((t) => t.head.number),
      drawing: this.drawing,
      window: this.shownWindow,
      cursors: this.cursors,
      recorded: this.recorded,
      series: this.series,
    };
  }
  get address(): string {
    return addressText(this.looked);
  }

  /** Looks at a window, remembering the one before. @param quietly while a drag goes on: only its beginning is remembered */
  look(from: number, to: number, quietly = false): void {
    const [low, high] = this.whole;
    const least = 4 / this.fastest;
    const room = Math.max(high - low, least);
    // Somewhat beyond the ends can be looked at, no further.
    const [a, b] = [Math.max(from, low - room / 4), Math.min(to, high + room / 4)];
    if (!(b - a >= least)) return;
    if (!quietly) this.remember();
    this.shownWindow = Math.abs(a - low) < 1e-9 && Math.abs(b - high) < 1e-9 ? null : [a, b];
    this.tell();
  }
  remember(): void {
    const now = this.window;
    if (this.former.at(-1)?.join() !== now.join()) this.former = [...this.former.slice(-49), now];
    this.later = [];
  }
  all(): void {
    if (this.shownWindow) this.look(...this.whole);
  }
  back(): void {
    const last = this.former.at(-1);
    if (!last) return;
    this.later = [...this.later, this.window];
    this.former = this.former.slice(0, -1);
    this.show(last);
  }
  forward(): void {
    const next = this.later.at(-1);
    if (!next) return;
    this.former = [...this.former, this.window];
    this.later = this.later.slice(0, -1);
    this.show(next);
  }
  private show(window: Window): void {
    this.shownWindow = window.join() === this.whole.join() ? null : window;
    this.tell();
  }
  /** Wider or narrower about a place of the axis. */
  zoom(at: number, factor: number): void {
    const [from, to] = this.window;
    this.look(at - (at - from) * factor, at + (to - at) * factor, true);
  }
  /** To later (above 0) or earlier. */
  pan(seconds: number, quietly = true): void {
    const [from, to] = this.window;
    this.look(from + seconds, to + seconds, quietly);
  }

  place(which: 0 | 1, at: number | null): void {
    this.chosen = which;
    const [low, high] = this.whole;
    this.cursors = this.cursors.map((c, k) => (k === which ? (at === null ? null : Math.min(high, Math.max(low, at))) : c)) as Inspection['cursors']; // prettier-ignore
    this.tell();
  }

  /** Another take stands out, of those that are shown. */
  standOut(id: string): void {
    if (id === this.front || !this.takes.some((t) => t.head.id === id)) return;
    this.front = id;
    if (this.drawing.aligned === 'the clock' || this.drawing.aligned === 'the best fit') void this.align();
    this.tell();
  }
  /** The next one (1) or the one before. */
  step(by: 1 | -1): void {
    const at = this.takes.indexOf(this.main);
    const next = this.takes[(at + by + this.takes.length) % this.takes.length];
    if (next) this.standOut(next.head.id);
  }

  /** Lays takes over each other: fetches those that are not known. The one that stood out goes on, where it is among them.
   *  @throws Fault */
  async lay(ids: readonly string[], front = this.front): Promise<void> {
    const known = new Map(this.takes.map((t) => [t.head.id, t]));
    const wanted = ids.filter((id) => !known.has(id));
    const got = wanted.length
      ? await call('POST /api/takes/views', { body: { takes: wanted, recorded: this.recorded } })
      : [];
    for (const t of got) if ('head' in t) known.set(t.head.id, t);
    this.unread = got.flatMap((t) => ('head' in t ? [] : [{ name: t.name, fault: t.fault }]));
    const alone = this.takes.length === 1 && ids.length === 1;
    this.takes = ids.flatMap((id) => known.get(id) ?? []);
    this.front = this.takes.some((t) => t.head.id === front) ? front : (this.takes[0]?.head.id ?? '');
    // A single take that is exchanged for another one is looked at whole.
    if (alone) {
      this.shownWindow = null;
      [this.former, this.later] = [[], []];
      this.cursors = [null, null];
    }
    await this.align();
    this.beginCursors();
    this.tell();
  }
  /** Fetches anew what is known of the takes: one was judged, mended, written to. */
  async refresh(): Promise<void> {
    const ids = this.takes.map((t) => t.head.id);
    if (ids.length === 0) return;
    const got = await call('POST /api/takes/views', { body: { takes: ids, recorded: this.recorded } });
    this.takes = got.filter((t): t is TakeView => 'head' in t);
    this.unread = got.flatMap((t) => ('head' in t ? [] : [{ name: t.name, fault: t.fault }]));
    await this.align();
  }

  change(change: Partial<Drawing>): void {
    const before = this.drawing;
    this.drawing = { ...before, ...change };
    const moves = ['aligned', 'mark', 'alignBy', 'way', 'level', 'hysteresis'] as const;
    if (moves.some((key) => this.drawing[key] !== before[key])) {
      // What 0 means is another moment now: windows and cursors of before mean nothing.
      this.shownWindow = null;
      [this.former, this.later] = [[], []];
      this.cursors = [null, null];
      void this.align().then(() => {
        this.beginCursors();
        this.tell();
      });
    }
    this.tell();
  }

  private asked = 0;
  private async align(): Promise<void> {
    const asked = ++this.asked;
    const { aligned, mark, alignBy, way, level, hysteresis } = this.drawing;
    this.aligning = null;
    if (aligned === 'their start' || this.takes.length === 0) return void (this.aligned = new Map());
    if ((aligned === 'a crossing' || aligned === 'the best fit') && !alignBy) {
      this.aligned = new Map();
      return void (this.aligning = {
        what: 'No channel is chosen to lay them by.',
        next: 'Choose one in the sentence.',
      });
    }
    const by = (
      {
        'the clock': 'clock',
        'a mark': 'mark',
        'a crossing': 'crossing',
        'the best fit': 'best fit',
      } as const
    )[aligned];
    try {
      const takes = this.ordered.map((t) => t.head.id);
      const found = await call('POST /api/align', {
        body: { takes, by, mark, channel: alignBy ?? '', way, level, hysteresis },
      });
      if (asked !== this.asked) return;
      this.aligned = new Map(found.map((f) => [f.take, f]));
      const without = found.filter((f) => f.fault);
      if (without.length)
        this.aligning = {
          what:
            without.length === 1
              ? without[0].fault!
              : `${without.length} takes are laid by their start: ${without[0].fault}`,
        };
    } catch (error) {
      if (asked === this.asked) this.aligning = faultText(error);
    }
  }
}

/** How far a clock of a place is ahead of UTC at an instant, s. */
function offsetS(at: number, zone: string): number {
  try {
    const parts = new Intl.DateTimeFormat('en-GB', {
      timeZone: zone || 'UTC',
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
      hourCycle: 'h23',
    }).formatToParts(new Date(at * 1000));
    const of = (type: string) => Number(parts.find((p) => p.type === type)?.value);
    const local =
      Date.UTC(of('year'), of('month') - 1, of('day'), of('hour'), of('minute'), of('second')) / 1000;
    return local - Math.floor(at);
  } catch {
    return 0;
  }
}
