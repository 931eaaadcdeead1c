import { randomUUID } from 'node:crypto';
import { badInput } from '$core/errors';
import { Board, BoardChange, withChange } from '$contract/board';
import * as store from '$store/boards';
import { getPicture, insertPicture } from '$store/logbook';
import { jobOf, type App } from './app';
import { check } from './check';
import { change as changeSetup } from './setup/change';

export const boardsOf = (app: App): Board[] => store.listBoards(app.db, jobOf(app).id);
export const boardOf = (app: App, id: string): Board => store.getBoard(app.db, id);

/** Adds a board, a copy of another where one is named. */
export function addBoard(app: App, name: string, from?: string): Board {
  const views = from ? boardOf(app, from).views : [];
  const board = check(Board, { id: randomUUID(), name, views });
  store.putBoard(app.db, jobOf(app).id, board);
  app.live.boardChanged(board.id);
  return board;
}

/** Makes a change of a board's views or name; what others changed of it meanwhile stays. Pages are told.
 *  @throws `bad_input`, `not_found` */
export function changeBoard(app: App, id: string, change: BoardChange): Board {
  const before = boardOf(app, id);
  const { name = before.name, ...views } = check(BoardChange, change);
  const board = check(Board, { id, name, views: withChange(before.views, views) });
  store.putBoard(app.db, jobOf(app).id, board);
  app.live.boardChanged(id);
  return board;
}

/** Takes a board away; undo brings it back. @throws `not_found` */
export async function removeBoard(app: App, id: string, by: string): Promise<Board> {
  const board = boardOf(app, id);
  await changeSetup(app, { drop: { boards: [id] } }, 'board', id, `Removed the board “${board.name}”.`, by);
  return board;
}

const MOST_BYTES = 8e6;
/** By their first bytes, not by what they are called. */
const PICTURES: [type: string, start: number[]][] = [
  ['image/png', [0x89, 0x50, 0x4e, 0x47]],
  ['image/jpeg', [0xff, 0xd8, 0xff]],
  ['image/webp', [0x52, 0x49, 0x46, 0x46]],
];
/** A picture by what it holds. @throws `bad_input` for another kind of file, or one too large */
export function readPicture(content: Buffer): { type: string; content: Buffer } {
  const found = PICTURES.find(([, start]) => start.every((byte, i) => content[i] === byte));
  if (!found) throw badInput('picture', 'another kind of file', 'Choose a PNG, JPEG or WebP picture.');
  if (content.length > MOST_BYTES)
    throw badInput('picture', `${(content.length / 1e6).toFixed(1)} MB`, 'At most 8 MB.');
  return { type: found[0], content };
}
/** Keeps a picture for a board. @returns its id */
export const keepPicture = (app: App, content: Buffer): number => insertPicture(app.db, readPicture(content));
export const pictureOf = (app: App, id: number) => getPicture(app.db, id);
