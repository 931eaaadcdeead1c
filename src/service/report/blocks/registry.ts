import type { BlockKinds } from '$contract/report-blocks';
import type { BlockPainter } from './block';
import { chart } from './chart';
import { figure } from './drawings';
import { channels, findings, notes, table, takes } from './listings';
import { alike, modes, shapes, stabilization } from './modal';
import { emissions, noise } from './radio';
import { readings } from './readings';
import { picture, series, trail } from './records';
import { facts, method, page, rule, words } from './texts';

/** Who draws which kind of block. */
export const PAINTERS: { [K in keyof BlockKinds]: BlockPainter<K> } = {
  chart,
  figure,
  findings,
  table,
  channels,
  takes,
  series,
  readings,
  noise,
  emissions,
  modes,
  stabilization,
  shapes,
  alike,
  words,
  picture,
  facts,
  method,
  trail,
  notes,
  rule,
  page,
};
