import type { BoardView } from '../view';
import SpectrumView from './SpectrumView.svelte';

export const spectrum: BoardView = {
  kind: 'spectrum',
  title: 'Spectrum',
  purpose: 'what frequencies it holds: now, on average, highest so far',
  size: [10, 5],
  channels: 'one',
  needs: (_, id) => ({ wave: id }),
  shows: SpectrumView,
};
