import { stripKey } from '$contract/live';
import { SPANS } from '../spans';
import type { BoardView } from '../view';
import StripView from './StripView.svelte';

export const strip: BoardView = {
  kind: 'strip',
  title: 'Strip',
  purpose: 'a long history, minutes to days, by its extremes',
  size: [12, 4],
  channels: 'several',
  settings: [{ of: 'span', spans: SPANS }, { of: 'range' }],
  needs: (view, id) => ({ strip: stripKey(id, view.span) }),
  wants: () => true,
  namesItself: true,
  shows: StripView,
};
