import { fail, redirect } from '@sveltejs/kit';
import { FarrierError } from '$service/faults';
import type { Actions } from './$types';

export const actions: Actions = {
  default: async ({ request, locals, cookies, getClientAddress, url }) => {
    const phrase = String((await request.formData()).get('phrase') ?? '');
    try {
      const token = locals.access.enter(phrase, getClientAddress());
      cookies.set('farrier', token, {
        path: '/',
        httpOnly: true,
        sameSite: 'strict',
        secure: url.protocol === 'https:',
        maxAge: 7 * 24 * 3600,
      });
    } catch (error) {
      if (error instanceof FarrierError) return fail(403, { error: error.text });
      throw error;
    }
    redirect(303, '/rig');
  },
};
