import { replaceState } from '$app/navigation';
import { resolve } from '$app/paths';
import { momentOf } from '$core/figures/clock';
import type { NamedDrawing } from '$contract/drawing';
import type { TakeNote, TakeSignal } from '$contract/take';
import { call, faultText } from '../api';
import type { Shell } from '../shell/shell.svelte';
import { Inspection } from './inspection.svelte';
import { signalOf } from './panels';
import type { ReadingsAt } from './reading.svelte';
import { TakeList } from './take-list.svelte';

/** Dialogs of the page, one at a time. */
export type DialogName = 'export' | 'judge' | 'note' | 'mend' | 'make' | 'bin' | 'bring';
/** A note that is being written, s of the take. */
export interface NewNote {
  atS: number;
  untilS: number | null;
  says: string;
  replaces: number | null;
}

/** So many takes at most are laid over each other. */
const MOST_LAID = 50;

/** What is done on the page of recorded takes: finding and laying them, judging, mending, writing, the bin. */
export class Desk {
  readonly insp = new Inspection();
  readonly list = new TakeList();
  /** Views that are kept by name. */
  kept = $state.raw<NamedDrawing[]>([]);
  marked = $state.raw<ReadonlySet<string>>(new Set());
  /** The channel whose values of the other takes are read, where it is shown. */
  private chosen = $state('');
  /** Takes that the series judges out, with the reason. */
  out = $state.raw<ReadonlyMap<string, string>>(new Map());
  /** Counts up whenever takes or what is in them changed. */
  changes = $state(0);
  dialog = $state<DialogName | ''>('');
  note = $state.raw<NewNote>({ atS: 0, untilS: null, says: '', replaces: null });
  mending = $state.raw<TakeSignal | null>(null);
  /** Channels of which a signal is made. */
  making = $state.raw<string[]>([]);
  /** Files that were dropped onto the page. */
  dropped = $state.raw<File[]>([]);
  says = $state('');
  /** Takes that were put into the bin last. */
  binned = $state.raw<string[]>([]);
  reading: ReadingsAt | null = null;
  private telling: ReturnType<typeof setTimeout> | undefined;

  readonly channel = $derived(
    this.insp.names.includes(this.chosen) ? this.chosen : (this.insp.names[0] ?? ''),
  );
  /** Instant of the take that stands out at 0 of the axis. */
  readonly zero = $derived(this.insp.main ? this.insp.zero(this.insp.main.head.id) : 0);
  /** What would be studied, as the address of the kinds says it: the takes, the channels, the part that is looked at. */
  readonly studied = $derived.by(() => {
    const { main, ordered, names, window, whole } = this.insp;
    if (!main) return '';
    const query = [`takes=${ordered.map((t) => t.head.id).join()}`];
    const channels = names.flatMap((n) => signalOf(main, n)?.channelId ?? []);
    if (channels.length) query.push(`channels=${channels.map(encodeURIComponent).join()}`);
    if (window.join() !== whole.join()) {
      const [from, to] = window.map((s) => Math.min(main.durationS, Math.max(0, s + this.zero)));
      query.push(`from=${Number(from.toFixed(3))}`, `to=${Number(to.toFixed(3))}`);
    }
    return query.join('&');
  });
  /** The span between the cursors, where both stand. */
  readonly between = $derived.by((): [number, number] | null => {
    const [a, b] = this.insp.cursors;
    return a === null || b === null ? null : [Math.min(a, b), Math.max(a, b)];
  });
  /** Colours by a fact: takes of one value have one colour. By name only what stands out has any. */
  readonly legend = $derived.by(() => {
    const { drawing, takes } = this.insp;
    if (drawing.legend === 'name' || takes.length < 2) return null;
    const values = [...new Set(takes.map((t) => t.head.facts[drawing.legend] ?? ''))];
    return { by: drawing.legend, values: values.sort((a, b) => a.localeCompare(b, 'en', { numeric: true })) };
  });
  /** Takes that do not count: judged out in the series, or void. */
  readonly notCounting = $derived.by((): ReadonlyMap<string, string> => {
    const found = new Map<string, string>();
    for (const { head, judgements } of this.insp.takes) {
      const last = judgements.at(-1);
      if (last?.verdict === 'void') found.set(head.id, last.reason || 'void');
    }
    for (const [id, reason] of this.out) found.set(id, reason);
    return found;
  });
  /** The view that is kept as what is drawn now. */
  readonly keptNow = $derived.by(() => {
    const drawing = JSON.stringify(this.insp.drawing);
    return this.kept.find((k) => JSON.stringify(k.drawing) === drawing);
  });
  /** What a verdict is given on: all that are marked, or what stands out. */
  readonly judged = $derived.by(() => {
    const { insp, marked, list } = this;
    if (marked.size < 2) return insp.main ? [{ id: insp.main.head.id, name: insp.main.head.name }] : [];
    const names = new Map([...list.lines.values()].map((l) => [l.id, l.name]));
    return [...marked].map((id) => ({ id, name: names.get(id) ?? id }));
  });

  constructor(private readonly shell: Shell) {
    this.insp.tell = () => this.tell();
  }

  readonly colourOf = (id: string): number | null => {
    const take = this.legend && this.insp.takes.find((t) => t.head.id === id);
    return take ? this.legend!.values.indexOf(take.head.facts[this.legend!.by] ?? '') : null;
  };

  /** The address follows what is looked at: a link shows another person the same. */
  private tell(): void {
    clearTimeout(this.telling);
    this.telling = setTimeout(() => {
      const { main, address } = this.insp;
      if (main) replaceState(resolve(`/inspect/${main.head.id}${address ? `?${address}` : ''}`), {});
    }, 150);
  }
  stop = (): void => clearTimeout(this.telling);

  private async safely(work: () => Promise<unknown>): Promise<void> {
    try {
      await work();
    } catch (error) {
      this.shell.say(faultText(error));
    }
  }

  /** What is known of takes is fetched anew. @param all also what is in them */
  async refresh(all: boolean): Promise<void> {
    this.changes++;
    const { insp, list } = this;
    await Promise.all([list.search(), list.offers(), ...(all ? [this.safely(() => insp.refresh())] : [])]);
    for (const { head } of insp.takes) list.forgetStrip(head.id);
  }

  lay = (ids: string[], front?: string): Promise<void> =>
    this.safely(async () => {
      await this.insp.lay(ids.slice(0, MOST_LAID), front);
      this.marked = new Set(ids.length > 1 ? ids : []);
    });
  /** Marks takes; as long as they are not too many they are laid over each other. */
  mark(ids: string[]): void {
    const { insp } = this;
    this.says = '';
    if (ids.length > MOST_LAID) {
      this.marked = new Set(ids);
      this.says = `${ids.length} takes are marked; up to ${MOST_LAID} are laid over each other.`;
      return;
    }
    // The first box beside a take that is shown alone lays another one over it.
    const beside = insp.takes.length === 1 && ids.length === 1 && ids[0] !== insp.main.head.id;
    const wanted = beside ? [insp.main.head.id, ...ids] : ids;
    this.marked = new Set(wanted);
    if (wanted.length) void this.safely(() => insp.lay(wanted));
  }
  unmark = (): void => this.mark(this.insp.main ? [this.insp.main.head.id] : []);
  /** One of several stands out; any other is shown alone. */
  show(id: string): void {
    this.says = '';
    const { insp } = this;
    if (insp.takes.length > 1 && insp.takes.some((t) => t.head.id === id)) insp.standOut(id);
    else void this.lay([id], id);
  }

  choose = (channel: string): void => void (this.chosen = channel);
  /** Shows a channel, or takes it away; the last one stays. */
  toggle = (name: string): void => {
    const { insp } = this;
    const shown = insp.names.includes(name);
    const channels = shown ? insp.names.filter((n) => n !== name) : [...insp.names, name];
    if (channels.length === 0) return;
    insp.change({ channels });
    if (!shown) this.choose(name);
  };
  /** A channel was dropped onto the plot of another one, or beside all. */
  drop(name: string, onto: string | null): void {
    const { insp } = this;
    const together = { ...insp.drawing.together };
    delete together[name];
    if (insp.drawing.as === 'strips' && onto && onto !== name) together[name] = together[onto] ?? onto;
    const channels = insp.names.includes(name) ? insp.names : [...insp.names, name];
    insp.change({ channels, together });
    this.choose(name);
  }

  /** Opens the form for a note at a moment or over a span of the axis; or for writing one anew. */
  write = (from: number, to: number | null, former?: TakeNote): void => {
    const end = this.insp.main.durationS;
    const within = (s: number) => Math.min(end, Math.max(0, s + this.zero));
    this.note = former
      ? { atS: former.atS, untilS: former.untilS, says: former.says, replaces: former.id }
      : { atS: within(from), untilS: to === null ? null : within(to), says: '', replaces: null };
    this.dialog = 'note';
  };
  /** At the cursor, or between both. */
  writeHere = (): void => {
    const { insp, between } = this;
    if (!insp.main) return;
    if (between) this.write(...between);
    else this.write(insp.cursors[insp.chosen] ?? insp.window[0], null);
  };

  keep = async (name: string): Promise<void> => {
    const { insp } = this;
    insp.change({ channels: insp.names });
    await call('PUT /api/drawings', { body: { name, drawing: insp.drawing } });
    this.kept = await call('GET /api/drawings');
  };
  forget = (id: string): Promise<void> =>
    this.safely(async () => {
      await call('DELETE /api/drawings/[id]', { params: { id } });
      this.kept = await call('GET /api/drawings');
    });

  mend(signal: TakeSignal): void {
    this.mending = signal;
    this.dialog = 'mend';
  }
  /** @param signal the one it is made from; the chosen channel where none is said */
  make(signal = signalOf(this.insp.main, this.channel)): void {
    this.making = signal?.channelId ? [signal.channelId] : [];
    this.dialog = 'make';
  }
  takeOut = (signal: number): Promise<void> =>
    this.safely(async () => {
      await call('DELETE /api/takes/[id]/made/[signal]', {
        params: { id: this.insp.main.head.id, signal: String(signal) },
      });
      this.says = 'It is taken out; the same can be made again.';
      await this.refresh(true);
    });
  mended = (says: string): void => {
    this.says = says;
    void this.refresh(true);
  };
  undoMend = (mend: string): Promise<void> =>
    this.safely(async () => {
      await call('DELETE /api/takes/[id]/mends/[mend]', { params: { id: this.insp.main.head.id, mend } });
      this.says = 'The mending is taken back.';
      await this.refresh(true);
    });

  rename = (name: string): Promise<void> =>
    this.safely(async () => {
      await call('PATCH /api/takes/[id]', { params: { id: this.insp.main.head.id }, body: { name } });
      await this.refresh(true);
      await this.shell.refresh();
    });

  bin = (): Promise<void> =>
    this.safely(async () => {
      const { insp, list } = this;
      const ids = [...this.marked];
      await call('POST /api/bin', { body: { takes: ids } });
      this.binned = ids;
      this.says = `${ids.length === 1 ? '1 take lies' : `${ids.length} takes lie`} in the bin.`;
      this.marked = new Set();
      await list.search();
      const left = insp.takes.filter((t) => !ids.includes(t.head.id)).map((t) => t.head.id);
      const next = left.length ? left : list.found.ids.slice(0, 1);
      if (next.length) await insp.lay(next, next[0]);
      else location.assign(resolve('/inspect'));
      await this.shell.refresh();
    });
  unbin = (): Promise<void> =>
    this.safely(async () => {
      await call('POST /api/bin', { body: { takes: this.binned, out: true } });
      this.dismiss();
      await this.refresh(false);
      await this.shell.refresh();
    });
  dismiss = (): void => {
    this.says = '';
    this.binned = [];
  };

  /** Takes were brought in: the first of them is shown. */
  brought = async (ids: string[]): Promise<void> => {
    await this.shell.refresh();
    await this.refresh(false);
    if (this.insp.main) await this.lay(ids.slice(0, 1), ids[0]);
    else location.assign(resolve(`/inspect/${ids[0]}`));
  };

  /** All that stands at the cursors, of all takes, as a table. */
  copy = async (): Promise<void> => {
    const { insp, reading } = this;
    if (!reading || !insp.main) return;
    const at = insp.cursors.map((c) => (c === null ? '' : momentOf(insp.scale, c, insp.digits)));
    const value = (v: number | null) => (v === null ? '' : String(Number(v.toPrecision(7))));
    const lines = insp.ordered.flatMap((t) =>
      t.signals
        .filter((s) => t === insp.main || insp.names.includes(s.name))
        .map((s) => [
          t.head.name,
          s.name,
          s.unit,
          ...([0, 1] as const).map((k) => value(reading.at(t.head.id, k, s.id))),
        ]),
    );
    const table = [['take', 'channel', 'unit', `at ${at[0]}`, `at ${at[1]}`], ...lines];
    await navigator.clipboard.writeText(table.map((l) => l.join('\t')).join('\n'));
    this.says = `${lines.length} readings are copied.`;
  };
}
