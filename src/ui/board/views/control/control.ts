import { roleOf } from '$contract/channel';
import type { BoardView } from '../view';
import ControlView from './ControlView.svelte';

export const control: BoardView = {
  kind: 'control',
  title: 'Control',
  purpose: 'drives an output: slider, switch, push or number',
  size: [5, 2],
  channels: 'several',
  suits: (c) => roleOf(c) === 'driven',
  wants: (c) => roleOf(c) === 'driven',
  settings: [
    {
      of: 'choice',
      key: 'style',
      label: 'As',
      options: ['slider', 'switch', 'push', 'number'],
      usual: 'slider',
    },
  ],
  standsAlone: true,
  shows: ControlView,
};
