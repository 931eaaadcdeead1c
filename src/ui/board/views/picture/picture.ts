import type { BoardView } from '../view';
import PictureView from './PictureView.svelte';

export const picture: BoardView = {
  kind: 'picture',
  title: 'Picture with values',
  purpose: 'a picture with readings placed on it',
  size: [9, 6],
  channels: 'none',
  settings: [{ of: 'picture' }],
  standsAlone: true,
  shows: PictureView,
};
