import type { BoardView } from '../view';
import NumberView from './NumberView.svelte';

export const number: BoardView = {
  kind: 'number',
  title: 'Number',
  purpose: 'one value large, with its extremes and the peak since the start',
  size: [5, 3],
  channels: 'one',
  unitItself: true,
  shows: NumberView,
};
