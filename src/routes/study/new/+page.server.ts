import { error } from '@sveltejs/kit';
import { FarrierError } from '$service/faults';
import { takeRows, viewTake } from '$service/takes';
import type { PageServerLoad } from './$types';

/** What is studied stands in the address: takes by their ids, the first the one that is looked at; channels; a span in s. */
export const load: PageServerLoad = ({ locals, url, depends }) => {
  depends('farrier:page');
  const list = (key: string) => (url.searchParams.get(key) ?? '').split(',').filter(Boolean).slice(0, 200);
  const second = (key: string) => {
    const text = url.searchParams.get(key);
    const value = text === null || text === '' ? NaN : Number(text);
    return Number.isFinite(value) && value >= 0 ? value : null;
  };
  try {
    const takes = list('takes');
    const first = takes[0] ?? takeRows(locals.app).find((t) => t.state !== 'recording')?.id;
    const take = first ? viewTake(locals.app, first) : null;
    return { take, takes, channels: list('channels'), from: second('from'), to: second('to') };
  } catch (fault) {
    if (fault instanceof FarrierError) error(404, { message: fault.message, next: fault.text.next });
    throw fault;
  }
};
