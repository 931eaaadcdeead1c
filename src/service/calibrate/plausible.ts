import { valueOf } from '$contract/calibration';
import { channelKind, commonOf, type Channel } from '$contract/channel';

/** Change of the reading for each raw unit, about the middle of what the kind reads. */
function slopeOf(channel: Channel): number {
  const step = 1e-3;
  return (valueOf(channel, step) - valueOf(channel, -step)) / (2 * step);
}

/** Channels that read the same with the same kind of sensor. */
const alike = (a: Channel, b: Channel) =>
  a.id !== b.id &&
  a.kind === b.kind &&
  commonOf(a).unit === commonOf(b).unit &&
  a.settings.arrangement === b.settings.arrangement &&
  a.settings.resistance === b.settings.resistance;

/** Siblings that make a rule. */
const ENOUGH = 2;
/** How many channels there are that a value can be compared with; fewer than two make no rule. */
export const siblingsOf = (next: Channel, others: Channel[]): number =>
  others.filter((c) => alike(next, c)).length;

/** Whether a value fits what its siblings have: a warning with its reason, or null. Three siblings make a rule, one does not.
 *  @param next the channel with its new value @param others channels of the job */
export function doubt(next: Channel, others: Channel[]): string | null {
  const { unit } = commonOf(next);
  const own = slopeOf(next);
  if (!Number.isFinite(own) || own === 0) return 'With this value it would read the same whatever happens.';
  const siblings = others
    .filter((c) => alike(next, c))
    .map(slopeOf)
    .filter((s) => Number.isFinite(s) && s !== 0)
    .sort((a, b) => a - b);
  if (siblings.length < ENOUGH) return null;
  const usual = siblings[Math.floor(siblings.length / 2)];
  const ratio = own / usual;
  if (ratio > 1 / 1.4 && ratio < 1.4) return null;
  const arms =
    typeof next.settings.arrangement === 'string'
      ? `${next.settings.arrangement.split(',')[0]} bridge`
      : next.kind;
  const times =
    ratio < 0
      ? 'the opposite sign'
      : ratio > 1
        ? `about ${Number(ratio.toPrecision(2))} times less`
        : `about ${Number((1 / ratio).toPrecision(2))} times more`;
  return `A ${arms} with ${Number(own.toPrecision(3))} ${unit} for each ${channelKind(next.kind).rawUnit}: ${siblings.length} others of this kind have ${times}${likely(ratio)}.`;
}

/** What usually makes a value wrong by such a factor. */
export function likely(factor: number): string {
  const near = (f: number) => Math.abs(factor / f - 1) < 0.06;
  if (near(4)) return ': as a full bridge with a quarter bridge’s value does';
  if (near(2))
    return ': as a half bridge with a quarter bridge’s value, or a full one with a half bridge’s, does';
  if (near(2.6)) return ': as a full axial bridge with a quarter bridge’s value does';
  if (near(0.25)) return ': as a quarter bridge with a full bridge’s value does';
  if (near(0.5)) return ': as a bridge with the value of one with twice its arms does';
  if (near(1000) || near(0.001)) return ': a thousand, as µε and mm/m or N and kN do';
  if (near(-1)) return ': its sign is turned';
  return '';
}
