/** Kelvin by which the room may change until the receiver’s own noise no longer holds. */
const ROOM_K = 3;

/** What a receiver’s own noise was taken with. */
export interface Basis {
  receiver: string;
  gainDb: number;
  sampleRateHz: number;
  points: string;
  widths: string;
  source: string;
  roomK: number;
}

/** What changed since the own noise was taken, in words; empty while it holds. */
export function changedSince(then: Basis, now: Basis): string[] {
  const out: string[] = [];
  if (then.receiver !== now.receiver) out.push('the receiver');
  if (then.gainDb !== now.gainDb) out.push('its gain');
  if (then.sampleRateHz !== now.sampleRateHz) out.push('its rate');
  if (then.points !== now.points) out.push('points');
  if (then.widths !== now.widths) out.push('widths');
  if (then.source !== now.source) out.push('the source');
  const by = now.roomK - then.roomK;
  if (Math.abs(by) > ROOM_K) out.push(`the room, by ${by > 0 ? '+' : '−'}${Math.abs(by).toFixed(1)} K`);
  return out;
}
