import { aboveLevel, measureWidths, movePin, PINS_MOST } from '$core/radio/measure';
import { hertzText } from '$core/radio/words';
import { fixed } from '$core/readings';
import type { Listening, LineWish, RadioView } from '$contract/radio';
import type { Measuring } from '$contract/radio-measuring';
import type { BodyIn } from '$contract/api';
import { call, faultText } from '../api';
import type { Shell } from '../shell/shell.svelte';
import type { DrawnBand } from './band-plot';
import { Ear, heardLine } from './ear.svelte';

const mhz = (hz: number) => Number((hz / 1e6).toFixed(6));
/** Turns of the wheel within so long are one change of the band. */
const WHEEL_MS = 120;

/** One receiver on a page: how it is listened to, what is measured of it, and what a hand does. */
export class BandDesk {
  readonly ear = new Ear();
  all = $state.raw<RadioView[]>([]);
  unit = $state('');
  /** Pin that is moved by keys. */
  chosen = $state(1);
  /** What is changed here stands at once; the server confirms it. */
  private own = $state.raw<{ unit: string; measuring: Measuring } | null>(null);
  private sending = false;
  private waiting: Partial<Measuring> | null = null;
  private wheeling: ReturnType<typeof setTimeout> | undefined;
  private wheeled: { from: number; to: number } | null = null;

  constructor(private readonly shell: Shell) {}

  readonly view = $derived(this.all.find((v) => v.unit === this.unit) ?? this.all.at(0));
  readonly measuring = $derived(
    this.own && this.own.unit === this.view?.unit ? this.own.measuring : this.view?.measuring,
  );
  private get params() {
    return { unit: this.view?.unit ?? '' };
  }

  /** The line that is measured: as it is, or as it was at the pointer. */
  readonly line = $derived.by(() => {
    const { ear, measuring } = this;
    const { picture } = ear;
    if (!picture || !measuring) return null;
    const then = ear.then();
    const heard = picture.lines.find((l) => l.id === measuring.line) ?? picture.lines[0];
    const levels = then ?? heard?.levels;
    if (!levels) return null;
    return heardLine(picture, levels, then || heard.id === 'now' ? 1 : Math.max(1, heard.pictures));
  });
  readonly middle = $derived(
    this.line ? this.line.startHz + ((this.line.levels.length - 1) * this.line.stepHz) / 2 : NaN,
  );
  /** Centre of the channel whose power is measured. */
  readonly centreHz = $derived(this.measuring?.centre == null ? this.middle : this.measuring.centre * 1e6);
  readonly widths = $derived.by(() => {
    const { line, measuring, centreHz } = this;
    if (!line || !measuring) return null;
    const neighbours = measuring.neighbours.map((n) => ({ offsetHz: n.offset * 1e3, widthHz: n.wide * 1e3 }));
    return measureWidths(line, {
      share: measuring.share / 100,
      drop: measuring.drop,
      channel: { centreHz, widthHz: measuring.wide * 1e3, neighbours },
    });
  });
  /** Widths and powers as dimensions under the axis. */
  readonly dimensions = $derived.by((): DrawnBand['dimensions'] => {
    const { widths, measuring, centreHz } = this;
    if (!widths || !measuring) return [];
    const around = (at: number, wide: number) => ({
      lowHz: at - (wide * 1e3) / 2,
      highHz: at + (wide * 1e3) / 2,
    });
    const { occupied, channel } = widths;
    const out: DrawnBand['dimensions'] = [
      {
        width: occupied,
        says: `${measuring.share} % of the power in ${hertzText(occupied.widthHz)}`,
        own: true,
        row: 0,
      },
    ];
    if (!channel || !Number.isFinite(channel.main)) return out;
    const add = (at: number, wide: number, says: string) =>
      void out.push({ width: around(at, wide), says, own: false, row: 1 });
    add(centreHz, measuring.wide, `${fixed(channel.main, 1)} dBm`);
    measuring.neighbours.forEach((n, k) => {
      const { below, above } = channel.neighbours[k];
      if (Number.isFinite(below)) add(centreHz - n.offset * 1e3, n.wide, `${fixed(below, 1)} dB`);
      if (Number.isFinite(above)) add(centreHz + n.offset * 1e3, n.wide, `${fixed(above, 1)} dB`);
    });
    return out;
  });
  /** What is said beside the level line. */
  readonly aside = $derived.by(() => {
    const { line, measuring } = this;
    if (!line || measuring?.level == null) return '';
    const { runs } = aboveLevel(line.levels, measuring.level);
    return runs === 0 ? 'nothing above it' : `${runs} above it`;
  });

  /** Asks anew how receivers are listened to. */
  async look(): Promise<void> {
    this.all = await call('GET /api/radio');
    this.own = null;
  }
  /** Does something whose fault is said at the head of the page. */
  async doing<T>(work: () => Promise<T>): Promise<T | null> {
    try {
      const done = await work();
      this.shell.say(null);
      return done;
    } catch (error) {
      this.shell.say(faultText(error));
      return null;
    }
  }
  async listen(body: Partial<Listening>): Promise<void> {
    this.all = await call('PUT /api/radio/[unit]/listening', { params: this.params, body });
  }
  lines = (lines: LineWish[]): void =>
    void this.doing(
      async () =>
        (this.all = await call('PUT /api/radio/[unit]/lines', { params: this.params, body: { lines } })),
    );
  clear = (ids: string[]): void =>
    void this.doing(() => call('POST /api/radio/[unit]/clear', { params: this.params, body: { ids } }));

  /** Pins and levels are dragged: what came last is sent, one at a time. @throws Fault when it is refused */
  measure = async (change: Partial<Measuring>): Promise<void> => {
    const { view, measuring } = this;
    if (!view || !measuring) return;
    this.own = { unit: view.unit, measuring: { ...measuring, ...change } };
    this.waiting = { ...this.waiting, ...change };
    if (this.sending) return;
    this.sending = true;
    try {
      while (this.waiting) {
        const body: Partial<Measuring> = this.waiting;
        this.waiting = null;
        const next = await call('PUT /api/radio/[unit]/measuring', { params: { unit: view.unit }, body });
        if (this.waiting) continue;
        this.all = next;
        this.own = null;
      }
    } catch (error) {
      this.own = this.waiting = null;
      throw error;
    } finally {
      this.sending = false;
    }
  };

  pinTo = (id: number, hz: number): void => {
    const pins = this.measuring?.pins.map((p) => (p.id === id ? { ...p, hz } : p));
    if (pins) void this.doing(() => this.measure({ pins }));
  };
  /** The chosen pin goes on; where there is none yet, one is set on the highest. */
  go(to: Parameters<typeof movePin>[3]): void {
    const { line, measuring } = this;
    if (!line || !measuring) return;
    const pin = measuring.pins.find((p) => p.id === this.chosen);
    const hz = movePin(line, measuring, pin?.hz ?? 0, pin ? to : 'highest');
    if (hz === null) return;
    if (pin) return this.pinTo(pin.id, hz);
    const id = Array.from({ length: PINS_MOST }, (_, k) => k + 1).find(
      (k) => !measuring.pins.some((p) => p.id === k),
    );
    if (id === undefined) return;
    this.chosen = id;
    void this.doing(() => this.measure({ pins: [...measuring.pins, { id, hz, follows: true }] }));
  }
  /** The level line comes, or goes. */
  level = (): void =>
    void this.doing(() => this.measure({ level: this.measuring?.level == null ? -70 : null }));

  closer = (fromHz: number, toHz: number): void =>
    void this.doing(() => this.listen({ span: 'from', from: mhz(fromHz), to: mhz(toHz) }));
  /** Narrows or widens the band around a place. */
  wheel = (atHz: number, by: number): void => {
    const s = this.view?.listening;
    if (!s) return;
    const now =
      this.wheeled ?? (s.span === 'around' ? { from: s.around - s.wide / 2, to: s.around + s.wide / 2 } : s);
    const at = atHz / 1e6;
    this.wheeled = { from: at - (at - now.from) * by, to: at + (now.to - at) * by };
    clearTimeout(this.wheeling);
    this.wheeling = setTimeout(() => {
      const { from, to } = this.wheeled!;
      this.wheeled = null;
      this.closer(from * 1e6, to * 1e6);
    }, WHEEL_MS);
  };
  /** As wide as the receiver hears. */
  wider = (): void => {
    const receiver = this.view?.receiver;
    if (!receiver) return;
    const half = receiver.sampleRateHz * 0.4;
    void this.doing(() =>
      this.listen({ span: 'around', around: mhz(receiver.centreHz), wide: mhz(2 * half) }),
    );
  };
  /** Goes to a place of a recorded band, or plays it. */
  play = async (body: BodyIn<'PUT /api/radio/[unit]/playing'>): Promise<void> => {
    await this.doing(
      async () => (this.all = await call('PUT /api/radio/[unit]/playing', { params: this.params, body })),
    );
  };
  /** The band’s middle becomes a frequency, as wide as it is. */
  centreOn = (hz: number): void => {
    const plan = this.ear.picture?.plan;
    if (plan)
      void this.doing(() =>
        this.listen({ span: 'around', around: mhz(hz), wide: mhz(plan.lines * plan.stepHz) }),
      );
  };
}
