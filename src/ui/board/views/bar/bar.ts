import type { BoardView } from '../view';
import BarView from './BarView.svelte';

export const bar: BoardView = {
  kind: 'bar',
  title: 'Bar',
  purpose: 'several values side by side, each in its range',
  size: [6, 5],
  channels: 'several',
  settings: [{ of: 'range' }],
  shows: BarView,
};
