import { API, type Key } from '$contract/api';
import type { Need } from '$contract/api/endpoint';

/** Into the house, before anybody is known. */
const ENTRANCE = 'POST /enter';

/** What an address needs, by the route it resolves to: what the list of endpoints says; one that is not listed needs the controls, pages are to
 *  look on. @param route id of the resolved route, null where there is none */
export function needOf(method: string, route: string | null): Need {
  if (method === 'GET' || method === 'HEAD') return 'look';
  const key = `${method} ${route}`;
  return key in API ? API[key as Key].need : key === ENTRANCE ? 'look' : 'controls';
}

/** Pages that can be seen before one is let in, by their route. */
const BEFORE_THE_DOOR = new Set(['/enter', '/watch/[token]']);
/** Files that the entrance shows. */
const ITS_FILES = new Set(['/mark.svg']);

/** Whether something may be answered before one is let in: decided by what it resolves to, never by how an address begins. */
export const isEntrance = (route: string | null, path: string) =>
  (route !== null && BEFORE_THE_DOOR.has(route)) ||
  ITS_FILES.has(path) ||
  path.startsWith('/_app/immutable/');
