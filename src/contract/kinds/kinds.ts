import { BRIDGE_KINDS } from './bridges';
import { OTHER_KINDS } from './driven-and-computed';
import type { ChannelKind } from './kind';
import { MESSAGE_KINDS } from './messages';
import { POSITION_KINDS } from './position-and-counting';
import { RADIO_KINDS } from './radio';
import { SIGNAL_KINDS } from './signals';
import { TEMPERATURE_KINDS } from './temperature';

export type { ChannelKind, Role } from './kind';

/** Every kind of channel there is, in the order of the list; a new kind is one entry in one of these. */
export const CHANNEL_KINDS: readonly ChannelKind[] = [
  ...BRIDGE_KINDS,
  ...TEMPERATURE_KINDS,
  ...SIGNAL_KINDS,
  ...POSITION_KINDS,
  ...MESSAGE_KINDS,
  ...RADIO_KINDS,
  ...OTHER_KINDS,
];
