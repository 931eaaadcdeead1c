import { strip } from './strip/strip';
import { burst } from './burst/burst';
import { spectrum } from './spectrum/spectrum';
import { level } from './level/level';
import { dial } from './dial/dial';
import { bar } from './bar/bar';
import { number } from './number/number';
import { xy } from './xy/xy';
import { lamp } from './lamp/lamp';
import { table } from './table/table';
import { text } from './text/text';
import { picture } from './picture/picture';
import { control } from './control/control';
import type { View } from '$contract/board';
import type { Channel } from '$contract/channel';
import type { Look } from '$contract/live';
import type { BoardView } from './view';

/** All kinds of live views, in the order in which they are offered. */
export const BOARD_VIEWS: BoardView[] = [
  strip,
  burst,
  spectrum,
  level,
  dial,
  bar,
  number,
  xy,
  lamp,
  table,
  text,
  picture,
  control,
];

/** One kind; undefined for one that this version does not know. */
export const boardView = (kind: string): BoardView | undefined => BOARD_VIEWS.find((v) => v.kind === kind);

/** The view that fits a channel when it is dropped on a board: the last kind that wants it, which is the most particular. */
export const fittingView = (channel: Channel): BoardView =>
  BOARD_VIEWS.findLast((v) => v.wants?.(channel)) ?? BOARD_VIEWS[0];

/** What a view draws of the feed. */
export function needsOf(view: View): Look {
  const needs = view.channels.map((id) => boardView(view.kind)?.needs?.(view, id) ?? {});
  return {
    strips: needs.flatMap(({ strip }) => strip ?? []),
    waves: needs.flatMap(({ wave }) => wave ?? []),
  };
}
