import type { BoardView } from '../view';
import TextView from './TextView.svelte';

export const text: BoardView = {
  kind: 'text',
  title: 'Text',
  purpose: 'words of your own',
  size: [6, 2],
  channels: 'none',
  standsAlone: true,
  shows: TextView,
};
