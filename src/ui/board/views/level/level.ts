import { stripKey } from '$contract/live';
import { SPANS } from '../spans';
import type { BoardView } from '../view';
import LevelView from './LevelView.svelte';

export const level: BoardView = {
  kind: 'level',
  title: 'Level over time',
  purpose: 'root mean square over time',
  size: [10, 4],
  channels: 'several',
  settings: [{ of: 'span', spans: SPANS.filter((s) => s <= 600) }, { of: 'range' }],
  needs: (view, id) => ({ strip: stripKey(id, view.span, 'rms') }),
  namesItself: true,
  shows: LevelView,
};
