import { commonOf } from '$contract/channel';
import type { BoardView } from '../view';
import LampView from './LampView.svelte';

export const lamp: BoardView = {
  kind: 'lamp',
  title: 'Lamp',
  purpose: 'yes or no, and limits, at a glance',
  size: [4, 2],
  channels: 'several',
  wants: (c) => commonOf(c).unit === 'yes/no',
  shows: LampView,
};
