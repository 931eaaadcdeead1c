/** What a request needs besides being let in: nothing more than to look on (“look”), to be no mere watcher (“take part”), or the controls. */
export type Need = 'look' | 'take part' | 'controls';

/** What every address that changes something needs, by the route it resolves to; one that is not listed here needs the controls. Looking
 *  on is all that GET and HEAD need. */
const NEEDS: Record<string, Need> = {
  // Into the house, before anybody is known.
  'POST /enter': 'look',
  // Notes, acknowledging alarms and asking for the controls are for everyone who takes part, whoever holds the controls.
  'POST /api/controls': 'take part',
  'POST /api/alarms': 'take part',
  'POST /api/logbook': 'take part',
  // Boards, their pictures, studies, the names of takes and takes that are brought in change nothing of the rig, the set-up or what is recorded.
  'POST /api/boards': 'take part',
  'PATCH /api/boards/[id]': 'take part',
  'DELETE /api/boards/[id]': 'take part',
  'POST /api/pictures': 'take part',
  'POST /api/studies': 'take part',
  'PATCH /api/studies/[id]': 'take part',
  'DELETE /api/studies/[id]': 'take part',
  'POST /api/studies/refresh': 'take part',
  'POST /api/rehearse': 'take part',
  'PATCH /api/takes/[id]': 'take part',
  'POST /api/takes': 'take part',
};

/** @param route id of the resolved route, null where there is none */
export function needOf(method: string, route: string | null): Need {
  if (method === 'GET' || method === 'HEAD') return 'look';
  return NEEDS[`${method} ${route}`] ?? 'controls';
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
