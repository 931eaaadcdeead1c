import type { BoardView } from '../view';
import DialView from './DialView.svelte';

export const dial: BoardView = {
  kind: 'dial',
  title: 'Dial',
  purpose: 'one value in its range',
  size: [5, 5],
  channels: 'one',
  settings: [{ of: 'range' }],
  shows: DialView,
};
