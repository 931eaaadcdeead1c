import { error, redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** A link that can only watch. */
export const load: PageServerLoad = ({ locals, params, cookies, url }) => {
  if (!locals.app.controls.isLink(params.token))
    error(404, { message: 'This link does not hold any more.', next: 'Ask for a new one.' });
  cookies.set('farrier-watch', params.token, {
    path: '/',
    httpOnly: true,
    sameSite: 'strict',
    secure: url.protocol === 'https:',
    maxAge: 24 * 3600,
  });
  redirect(303, '/record');
};
