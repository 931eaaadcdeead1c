import type { BlockKinds } from '$contract/report-blocks';
import type { BlockPainter } from './block';
import { chart, figure } from './drawings';
import { channels, findings, notes, table, takes } from './listings';
import { facts, method, page, rule, words } from './texts';

/** Who draws which kind of block. */
export const PAINTERS: { [K in keyof BlockKinds]: BlockPainter<K> } = {
  chart,
  figure,
  findings,
  table,
  channels,
  takes,
  words,
  facts,
  method,
  notes,
  rule,
  page,
};
