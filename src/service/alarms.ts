import { badInput, notFound } from '$core/errors';
import type { Channel } from '$contract/channel';
import type { LiveFrame } from '$contract/engine';
import { CHANNEL_STATES } from '$contract/engine-status';
import { pastText, type AlarmNews } from '$contract/alarm';
import {
  closeAlarms,
  dropShelf,
  insertAlarm,
  listAlarms,
  listShelves,
  openAlarms,
  putShelf,
  updateAlarm,
  type AlarmRow,
} from '$store/alarms';
import type { Db } from '$store/database';

const LONGEST_SHELF_MS = 24 * 3600 * 1000;

/** What the keeper needs of the application. */
export interface AlarmWorld {
  db: Db;
  jobId(): string;
  channels(): Channel[];
  log(says: string, by: string): void;
  tell(news: AlarmNews): void;
}
/** An alarm that comes back this soon is the same one. */
const SAME_MS = 10_000;

/** Keeps warnings and alarms: they come with a channel's state or a rule, and stay until they are over and acknowledged. */
export class AlarmKeeper {
  private states: (string | undefined)[] = [];
  private ids: string[] = [];
  private quiet = false;
  private news: AlarmNews | null = null;

  /** What brings each shelved source back when its time is over. */
  private readonly wakes = new Map<string, NodeJS.Timeout>();

  constructor(private readonly world: AlarmWorld) {
    closeAlarms(world.db, Date.now());
    for (const { source, until } of listShelves(world.db, Date.now())) this.wake(source, until - Date.now());
  }

  /** Whoever forgets a shelf must not have switched an alarm off: it comes back by itself. */
  private wake(source: string, afterMs: number): void {
    clearTimeout(this.wakes.get(source));
    this.wakes.set(source, setTimeout(() => this.unshelve(source, 'Farrier'), afterMs).unref());
  }

  /** The channels that frames speak of now. */
  setup(channelIds: string[]): void {
    this.ids = channelIds;
    this.states = [];
  }

  /** Looks for channels whose state has passed into or out of a warning or alarm. */
  frame({ state, timeMs, min, max }: LiveFrame): void {
    if (state.length !== this.ids.length) return;
    for (let k = 0; k < state.length; k++) {
      const now = CHANNEL_STATES[state[k]];
      if (now === this.states[k]) continue;
      const former = this.states[k];
      this.states[k] = now;
      if (now === 'warning' || now === 'alarm')
        this.comes(this.ids[k], now, this.words(this.ids[k], now, { min: min[k], max: max[k] }), timeMs);
      else if (former === undefined || former === 'warning' || former === 'alarm')
        this.goes(this.ids[k], timeMs);
    }
  }

  private words(id: string, level: 'warning' | 'alarm', at: { min: number; max: number }): string {
    const channel = this.world.channels().find((c) => c.id === id);
    return channel ? `${channel.name} past its ${level}: ${pastText(channel, level, at)}` : level;
  }

  /** Another job is worked on: what held in the former one holds no more, and its alarms are its own. */
  otherJob(): void {
    closeAlarms(this.world.db, Date.now());
    this.states = [];
    this.quiet = false;
    this.changed();
  }

  /** A warning or alarm begins. One that is open already at this source goes on; an alarm stands over a warning. */
  comes(source: string, level: 'warning' | 'alarm', says: string, atMs: number, over = false): void {
    const open = this.open.find((a) => a.source === source && a.outAt === null);
    if (open?.level === level) return;
    if (open) updateAlarm(this.world.db, open.id, { outAt: atMs });
    const same = this.open.find(
      (a) => a.source === source && a.level === level && a.takenAt === null && atMs - a.at < SAME_MS && !over,
    );
    if (same) {
      updateAlarm(this.world.db, same.id, { outAt: null });
      return this.changed();
    }
    insertAlarm(this.world.db, {
      jobId: this.world.jobId(),
      source,
      level,
      says,
      at: atMs,
      outAt: over ? atMs : null,
    });
    this.quiet = false;
    this.changed();
  }

  /** It is over. What nobody has acknowledged stays in the list. */
  goes(source: string, atMs: number): void {
    const open = this.open.filter((a) => a.source === source && a.outAt === null);
    if (open.length === 0) return;
    for (const a of open) updateAlarm(this.world.db, a.id, { outAt: atMs });
    this.changed();
  }

  private get open(): AlarmRow[] {
    return this.current.open as AlarmRow[];
  }
  get current(): AlarmNews {
    this.news ??= {
      open: openAlarms(this.world.db, this.world.jobId()),
      shelved: listShelves(this.world.db, Date.now()),
      quiet: this.quiet,
    };
    return this.news;
  }
  private changed(): void {
    this.news = null;
    this.world.tell(this.current);
  }

  /** Acknowledges one alarm, or all (id null). @throws `not_found` */
  take(id: number | null, by: string): void {
    const chosen = this.open.filter((a) => a.takenAt === null && (id === null || a.id === id));
    if (chosen.length === 0) throw notFound('open alarm', String(id ?? 'any'));
    for (const a of chosen) {
      updateAlarm(this.world.db, a.id, { takenAt: Date.now(), takenBy: by });
      this.world.log(`Acknowledged: ${a.says}.`, by);
    }
    this.changed();
  }

  /** Silences the sound everywhere; the next alarm sounds again. */
  hush(by: string): void {
    if (this.quiet) return;
    this.quiet = true;
    this.world.log('The alarm’s sound was silenced.', by);
    this.changed();
  }

  /** Puts a source aside for a time: its alarms are listed but make no sound. @throws `bad_input` without reason or beyond a day */
  shelve(source: string, minutes: number, why: string, by: string): void {
    if (!why.trim()) throw badInput('reason', 'none', 'Say why it may be put aside.');
    const span = minutes * 60_000;
    if (!(span > 0 && span <= LONGEST_SHELF_MS))
      throw badInput('time', `${minutes} min`, 'Give 1 to 1440 minutes.');
    this.wake(source, span);
    putShelf(this.world.db, { source, until: Date.now() + span, why: why.trim(), by });
    this.world.log(`${this.nameOf(source)} shelved for ${minutes} min: ${why.trim()}`, by);
    this.changed();
  }
  unshelve(source: string, by: string): void {
    clearTimeout(this.wakes.get(source));
    dropShelf(this.world.db, source);
    this.world.log(`${this.nameOf(source)} is back from the shelf.`, by);
    this.changed();
  }
  private nameOf = (source: string) => this.world.channels().find((c) => c.id === source)?.name ?? source;

  list = () => listAlarms(this.world.db, this.world.jobId(), 200);
}
