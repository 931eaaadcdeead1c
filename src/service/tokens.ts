import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { FarrierError, conflict } from '$core/errors';
import { nameText } from '$contract/name-text';
import type { TokenView } from '$contract/token';
import { deleteToken, insertToken, listTokens, tokenByHash, tokenUsed } from '$store/tokens';
import { log, type App } from './app';
import { check } from './check';

const MARK = 'farrier_';
/** How often it is written down that a token was used, ms. */
const NOTED_MS = 60_000;
const MOST = 100;

/** A secret has 256 bits by chance: its hash needs no salt and no slowness. */
const hashOf = (secret: string) => createHash('sha256').update(secret).digest('base64url');

export const viewTokens = (app: App): TokenView[] =>
  listTokens(app.db).map(({ id, name, may, by, createdAt, usedAt }) => ({
    id,
    name,
    may,
    by,
    createdAt,
    usedAt,
  }));

/** Makes a token for a program. @returns its secret, which nobody can be told again @param program whether it is one that asks
 *  @throws `bad_input`, `conflict` for a name that there is, `not_allowed` for a program */
export function addToken(
  app: App,
  { name, may }: Pick<TokenView, 'name' | 'may'>,
  by: string,
  program = false,
): { id: string; secret: string } {
  // A program cannot let others in.
  if (program)
    throw new FarrierError('not_allowed', {
      what: 'A token makes no tokens.',
      where: 'token',
      next: 'Make it in the browser, under For programs.',
    });
  const own = check(nameText(60), name);
  const all = listTokens(app.db);
  if (all.some((t) => t.name === own))
    throw conflict('token', `There is a token “${own}” already.`, 'Give this one another name.');
  if (all.length >= MOST)
    throw conflict('token', `There are ${MOST} tokens.`, 'Take back those that are not used.');
  const secret = MARK + randomBytes(32).toString('base64url');
  const id = randomUUID();
  insertToken(app.db, {
    id,
    name: own,
    hash: hashOf(secret),
    may,
    by,
    createdAt: Date.now(),
    usedAt: null,
  });
  log(app, 'controls', `A token for the program “${own}” was made: it may ${may === 'read' ? 'read' : 'do everything'}.`, { by }); // prettier-ignore
  return { id, secret };
}

/** Takes a token back: whoever has it is not let in any more. @throws `not_found` */
export function removeToken(app: App, id: string, by: string): void {
  log(app, 'controls', `The token of the program “${deleteToken(app.db, id)}” was taken back.`, { by });
}

/** Who comes with a token. @param header “Bearer …” as it was sent; null where none was @returns null without one
 *  @throws `not_allowed` for one that is none, or none any more */
export function programOf(
  app: App,
  header: string | null,
): { id: string; name: string; may: TokenView['may'] } | null {
  if (header === null) return null;
  const secret = /^Bearer\s+(\S{1,200})$/i.exec(header)?.[1];
  const row = secret?.startsWith(MARK) ? tokenByHash(app.db, hashOf(secret)) : undefined;
  if (!row)
    throw new FarrierError('not_allowed', {
      what: 'This token is not known.',
      where: 'Authorization',
      next: 'Make one under For programs, and send it as “Authorization: Bearer …”.',
    });
  if (Date.now() - (row.usedAt ?? 0) > NOTED_MS) tokenUsed(app.db, row.id, Date.now());
  return { id: row.id, name: row.name, may: row.may };
}
