import {
  json,
  redirect,
  type Handle,
  type HandleServerError,
  type RequestEvent,
  type ServerInit,
} from '@sveltejs/kit';
import { ownName, sameOrigin } from '$service/access';
import { needsControls, newViewer } from '$service/people';
import { startServer, type Server } from '$service/server';
import { building, dev } from '$app/environment';
import { asFarrierError } from '$core/errors';

/** Kept beside the module, so that an edit during development stops the old server before it starts the new one. */
const slot = globalThis as typeof globalThis & { farrier?: Promise<Server> };

export const init: ServerInit = async () => {
  if (building) return;
  await (await slot.farrier)?.stop();
  slot.farrier = startServer({
    folder: process.env.FARRIER_DATA ?? 'data',
    host: dev ? '127.0.0.1' : (process.env.HOST ?? '127.0.0.1'),
    phrase: process.env.FARRIER_PHRASE,
  });
  try {
    await slot.farrier;
  } catch (error) {
    console.error((error as Error).message);
    process.exit(1);
  }
  // Open live streams would keep a stopping server waiting.
  for (const signal of ['SIGTERM', 'SIGINT'] as const)
    process.once(signal, () => void slot.farrier?.then((s) => s.app.live.closeAll()));
  process.once('sveltekit:shutdown', () => void slot.farrier?.then((s) => s.stop()));
};

const OPEN_PATHS = ['/enter', '/watch/', '/_app/', '/mark.svg'];
const YEAR_S = 365 * 24 * 3600;

const refused = (error: { what: string; next?: string }) => json({ error }, { status: 403 });

/** Whose browser a request comes from; a new one is given an id that it keeps. */
function whoIs({ cookies, url }: RequestEvent, watches: boolean): App.Locals['person'] {
  const fresh = newViewer();
  const id = cookies.get('farrier-viewer') ?? fresh.id;
  if (!cookies.get('farrier-viewer'))
    cookies.set('farrier-viewer', id, {
      path: '/',
      httpOnly: true,
      sameSite: 'strict',
      secure: url.protocol === 'https:',
      maxAge: YEAR_S,
    });
  const name = (cookies.get('farrier-name') ?? '').trim().slice(0, 40) || fresh.name;
  return { viewer: { id, name }, watches };
}

/** Bringing the outputs to rest is for everyone who may change anything, whoever holds the controls. */
async function bringsToRest(request: Request, url: URL): Promise<boolean> {
  if (url.pathname !== '/api/record') return false;
  const body = (await request
    .clone()
    .json()
    .catch(() => null)) as { do?: string } | null;
  return body?.do === 'rest';
}

export const handle: Handle = async ({ event, resolve }) => {
  if (!slot.farrier) return resolve(event);
  const { app, access } = await slot.farrier;
  Object.assign(event.locals, { app, access });
  const { request, url, cookies } = event;
  if (!access.needed && !ownName(request.headers.get('host')))
    return json(
      {
        error: {
          what: 'Farrier answers here to its own address only.',
          next: 'Open it as 127.0.0.1 or localhost, or set an access phrase.',
        },
      },
      { status: 403 },
    );
  if (
    !['GET', 'HEAD'].includes(request.method) &&
    !sameOrigin(request.headers.get('origin'), request.headers.get('host'))
  )
    return json(
      { error: { what: 'This request came from another site.', next: 'Use Farrier’s own pages.' } },
      { status: 403 },
    );
  if (
    access.needed &&
    !OPEN_PATHS.some((path) => url.pathname.startsWith(path)) &&
    !access.knows(cookies.get('farrier')) &&
    !app.controls.isLink(cookies.get('farrier-watch'))
  ) {
    if (url.pathname.startsWith('/api/'))
      return json(
        { error: { what: 'The access phrase is needed.', next: 'Open the start page and enter it.' } },
        { status: 401 },
      );
    redirect(303, '/enter');
  }
  const person = whoIs(event, app.controls.isLink(cookies.get('farrier-watch')));
  event.locals.person = person;
  if (!['GET', 'HEAD'].includes(request.method) && url.pathname.startsWith('/api/')) {
    if (person.watches)
      return refused({ what: 'This link can only watch.', next: 'Ask whoever gave it to you for more.' });
    try {
      if (needsControls(url.pathname) && !(await bringsToRest(request, url)))
        app.controls.mayChange(person.viewer);
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
