import {
  json,
  redirect,
  type Handle,
  type HandleServerError,
  type RequestEvent,
  type ServerInit,
} from '@sveltejs/kit';
import { ownName, sameOrigin, type Access } from '$service/access';
import { isDiskFull } from '$service/faults';
import { NOBODY, readName } from '$service/people';
import { programOf } from '$service/tokens';
import { startServer, type Server } from '$service/server';
import { isEntrance, needOf } from './routes/needs';
import { building, dev } from '$app/environment';
import { asFarrierError } from '$core/errors';

/** Kept beside the module, so that an edit during development stops the old server before it starts the new one. */
const slot = globalThis as typeof globalThis & { farrier?: Promise<Server> };

/** How often it is looked whether the disk has room again. */
const RETRY_MS = 5000;

export const init: ServerInit = async () => {
  if (building) return;
  await (await slot.farrier)?.stop();
  const open = () =>
    (slot.farrier = startServer({
      folder: process.env.FARRIER_DATA ?? 'data',
      // A socket's path is reached by whoever may open the file.
      host: dev ? '127.0.0.1' : process.env.SOCKET_PATH ? 'a socket' : (process.env.HOST ?? '127.0.0.1'),
      phrase: process.env.FARRIER_PHRASE,
    }));
  try {
    await open();
  } catch (error) {
    console.error((error as Error).message);
    if (!isDiskFull(error)) process.exit(1);
    const again = setInterval(() => {
      void open().then(
        () => clearInterval(again),
        () => undefined,
      );
    }, RETRY_MS);
  }
  // Open live streams would keep a stopping server waiting.
  for (const signal of ['SIGTERM', 'SIGINT'] as const)
    process.once(signal, () => void slot.farrier?.then((s) => s.app.live.closeAll()));
  process.once('sveltekit:shutdown', () => void slot.farrier?.then((s) => s.stop()));
};

const YEAR_S = 365 * 24 * 3600;

const refused = (error: { what: string; next?: string }, status = 403) => json({ error }, { status });

/** Whose browser a request comes from; a new one is given a secret that it keeps. Others are told a number made of it, never the secret. */
function whoIs({ cookies, url }: RequestEvent, access: Access, watches: boolean): App.Locals['person'] {
  let id = access.viewerOf(cookies.get('farrier-viewer'));
  if (id === null) {
    const fresh = access.newViewer();
    cookies.set('farrier-viewer', fresh.cookie, {
      path: '/',
      httpOnly: true,
      sameSite: 'strict',
      secure: url.protocol === 'https:',
      maxAge: YEAR_S,
    });
    id = fresh.id;
  }
  return { viewer: { id, name: readName(cookies.get('farrier-name')) || NOBODY }, watches };
}

/** Bringing the outputs to rest is for everyone who may change anything, whoever holds the controls. */
async function bringsToRest(request: Request, route: string | null): Promise<boolean> {
  if (route !== '/api/record') return false;
  const body = (await request
    .clone()
    .json()
    .catch(() => null)) as { do?: string } | null;
  return body?.do === 'rest';
}

/** The disk was full as Farrier started: it is tried again until there is room. */
const noRoom = () =>
  new Response(
    'Farrier cannot start: the disk is full.\nFree at least 50 MB; it goes on by itself then. What was recorded is there.\n',
    { status: 503, headers: { 'content-type': 'text/plain; charset=utf-8', 'retry-after': '5' } },
  );

export const handle: Handle = async ({ event, resolve }) => {
  const server = await slot.farrier?.catch(() => null);
  if (slot.farrier && !server) return noRoom();
  if (!server) return resolve(event);
  const { app, access } = server;
  Object.assign(event.locals, { app, access, letIn: false, program: false });
  const { request, url, cookies } = event;
  const route = event.route.id;
  if (!access.needed && !ownName(request.headers.get('host')))
    return refused({
      what: 'Farrier answers here to its own address only.',
      next: 'Open it as 127.0.0.1 or localhost, or set an access phrase.',
    });
  if (
    !['GET', 'HEAD'].includes(request.method) &&
    !sameOrigin(request.headers.get('origin'), request.headers.get('host'))
  )
    return refused({ what: 'This request came from another site.', next: 'Use Farrier’s own pages.' });
  const watching = app.controls.isLink(cookies.get('farrier-watch'));
  const known = access.knows(cookies.get('farrier'));
  let program: ReturnType<typeof programOf>;
  try {
    program = programOf(app, request.headers.get('authorization'));
  } catch (error) {
    return refused(asFarrierError(error, 'token').text, 401);
  }
  event.locals.program = program !== null;
  event.locals.letIn = !access.needed || known || watching || program !== null;
  if (!event.locals.letIn && !isEntrance(route, url.pathname)) {
    if (route === '/api' || route?.startsWith('/api/'))
      return refused(
        { what: 'The access phrase is needed.', next: 'Open the start page and enter it.' },
        401,
      );
    redirect(303, '/enter');
  }
  const person = program
    ? { viewer: { id: `program-${program.id}`, name: program.name }, watches: program.may === 'read' }
    : whoIs(event, access, watching && !known);
  event.locals.person = person;
  const need = needOf(request.method, route);
  if (need !== 'look') {
    if (program?.may === 'read')
      return refused({
        what: 'This token may only read.',
        next: 'Use one that may do everything.',
      });
    if (person.watches)
      return refused({ what: 'This link can only watch.', next: 'Ask whoever gave it to you for more.' });
    try {
      if (need === 'controls' && !(await bringsToRest(request, route))) app.controls.mayChange(person.viewer);
    } catch (error) {
      return refused(asFarrierError(error, 'controls').text);
    }
  }
  const response = await resolve(event);
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'same-origin');
  return response;
};

export const handleError: HandleServerError = ({ error, status, message }) => {
  if (status === 404) return { message: 'There is no such page.', next: 'Choose a place on the left.' };
  const fault = asFarrierError(error, message);
  console.error(error);
  return { message: fault.text.what, next: fault.text.next };
};
