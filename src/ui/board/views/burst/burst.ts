import type { BoardView } from '../view';
import BurstView from './BurstView.svelte';

export const burst: BoardView = {
  kind: 'burst',
  title: 'Burst',
  purpose: 'every sample around the moment it passes a level, held in place',
  size: [10, 5],
  channels: 'one',
  begins: { span: 0.2, level: 0 },
  settings: [{ of: 'span', spans: [0.02, 0.05, 0.1, 0.2, 0.5, 1, 2] }, { of: 'level' }, { of: 'range' }],
  needs: (_, id) => ({ wave: id }),
  shows: BurstView,
};
