import { roleOf, type Channel } from '$contract/channel';
import type { StoredSignal } from '$store/take/signals';

/** The channel as it was when the take was made. */
export const channelThen = (signal: StoredSignal) => signal.snapshot as Channel | null;
/** Whether it was made of others. */
export const isComputed = (signal: StoredSignal): boolean => {
  const channel = channelThen(signal);
  return channel !== null && roleOf(channel) === 'computed';
};
