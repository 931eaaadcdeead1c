import type { BoardView } from '../view';
import TableView from './TableView.svelte';

export const table: BoardView = {
  kind: 'table',
  title: 'Table',
  purpose: 'many channels: now, lowest, highest, mean',
  size: [9, 5],
  channels: 'several',
  shows: TableView,
};
