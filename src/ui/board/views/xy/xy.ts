import { SPANS } from '../spans';
import type { BoardView } from '../view';
import XyView from './XyView.svelte';

export const xy: BoardView = {
  kind: 'xy',
  title: 'One against another',
  purpose: 'one channel against another',
  size: [7, 6],
  channels: 'several',
  settings: [{ of: 'span', spans: SPANS.filter((s) => s <= 600) }],
  needs: (_, id) => ({ strip: id }),
  standsAlone: true,
  shows: XyView,
};
