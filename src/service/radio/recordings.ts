import { badInput, notFound } from '$core/errors';
import type { HeardBand, HeardFault, RadioView, RadioWish } from '$contract/radio';
import type { CaughtTold } from '$contract/radio-catching';
import type { App } from '../app';
import { leaseTake } from '../takes';
import { TakePlayer } from './player';

/** Recorded bands that are open at once at the most; the one that was opened first makes room. */
const MOST = 4;

type Seen = Pick<RadioView, 'unit' | 'name' | 'receiver' | 'answering' | 'says' | 'standIn' | 'recorded'>;

/** Recorded bands that are listened to like receivers. */
export class Recordings {
  private readonly open_ = new Map<string, { player: TakePlayer; takeId: string; name: string }>();

  constructor(
    private readonly app: App,
    private readonly told: (heard: HeardBand | CaughtTold | HeardFault) => void,
  ) {}

  has = (unit: string): boolean => this.open_.has(unit);

  /** @returns its name among the receivers @throws `not_found`, `damaged`, `bad_input` where the take has no complex samples */
  open(takeId: string): string {
    const unit = `take-${takeId}`;
    if (this.open_.has(unit)) return unit;
    const { reader, release } = leaseTake(this.app, takeId);
    try {
      const signal = reader.signals.find((s) => s.width === 2 && s.length > 0);
      if (!signal)
        throw badInput('take', reader.head.name, 'No band was recorded in it: it has no complex samples.');
      const player = new TakePlayer(
        reader.sampled(signal.id),
        signal.snapshot,
        (heard) => this.told({ unit, ...heard } as HeardBand | CaughtTold | HeardFault),
        release,
      );
      const [oldest] = this.open_.keys();
      if (this.open_.size >= MOST) this.drop(oldest);
      this.open_.set(unit, { player, takeId, name: `${signal.name}, ${reader.head.name}` });
      return unit;
    } catch (error) {
      release();
      throw error;
    }
  }

  list(): Seen[] {
    return [...this.open_].map(([unit, { player, takeId, name }]) => ({
      unit,
      name,
      receiver: player.band.state,
      answering: true,
      says: '',
      standIn: false,
      recorded: { takeId, durationS: player.durationS, atS: player.atS, speed: player.speed },
    }));
  }

  /** @returns whether it is one of these */
  want(unit: string, wish: RadioWish): boolean {
    const own = this.open_.get(unit);
    own?.player.want(wish);
    return own !== undefined;
  }

  /** @throws `not_found` */
  play(unit: string, { atS, speed }: { atS?: number; speed?: number }): void {
    const own = this.open_.get(unit);
    if (!own) throw notFound('recorded band', unit);
    if (speed !== undefined) own.player.play(speed);
    if (atS !== undefined) own.player.seek(atS);
  }

  private drop(unit: string): void {
    this.open_.get(unit)?.player.close();
    this.open_.delete(unit);
  }
  close(): void {
    for (const unit of [...this.open_.keys()]) this.drop(unit);
  }
}
