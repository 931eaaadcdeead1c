import type { Component } from 'svelte';
import type { Channel } from '$contract/channel';
import type { View } from '$contract/board';

/** What a view's component is given; `channels` has at least as many as its kind needs. */
export interface ViewProps {
  view: View;
  channels: Channel[];
  change: (edit: Partial<View>) => void;
}

/** What can be set at a view beside its title and channels. */
export type ViewSetting =
  | { of: 'span'; spans: readonly number[] }
  | { of: 'range' }
  | { of: 'level' }
  | { of: 'picture' }
  /** One of some words, kept in the view's style or among its own settings. */
  | { of: 'choice'; key: string; label: string; options: readonly string[]; usual: string };

/** A kind of live view: the socket of boards. One folder with its component, one line in `registry.ts`. */
export interface BoardView {
  kind: string;
  title: string;
  /** What it is good for, said where one is chosen. */
  purpose: string;
  /** Columns (of 24) and rows that a new one takes. */
  size: readonly [w: number, h: number];
  /** What a new one begins with, where it is not the usual. */
  begins?: Partial<View>;
  /** How many channels it shows. */
  channels: 'none' | 'one' | 'several';
  /** Channels that can be chosen for it; without it, any. */
  suits?: (channel: Channel) => boolean;
  /** Channels that get it when they are dropped on a board; the first kind that wants one gets it. */
  wants?: (channel: Channel) => boolean;
  settings?: readonly ViewSetting[];
  /** What it draws of a channel: strips by their key, every sample. */
  needs?: (view: View, channelId: string) => { strip?: string; wave?: string };
  /** Names its traces itself: its head shows no title of its own. */
  namesItself?: boolean;
  /** Shows its unit itself. */
  unitItself?: boolean;
  /** Has something to show without a channel. */
  standsAlone?: boolean;
  shows: Component<ViewProps>;
}
