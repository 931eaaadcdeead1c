import { badInput } from '$core/errors';
import * as store from '$store/hosts';
import { log, type App } from './app';

const MOST = 100;

/** Hosts that rules may call, each as “host” or “host:port”; none at first. The list is the house's, not a job's: a set-up that is imported
 *  brings no hosts along. */
export const listHosts = (app: App): string[] => store.listHosts(app.db);

/** The host of an address as it stands on the list; null for what is no http address. */
export function hostOf(address: string): string | null {
  try {
    const url = new URL(address);
    return url.protocol === 'http:' || url.protocol === 'https:' ? url.host.toLowerCase() : null;
  } catch {
    return null;
  }
}

export function mayCall(app: App, address: string): boolean {
  const host = hostOf(address);
  return host !== null && listHosts(app).includes(host);
}

/** Puts a host on the list or takes it off. @throws `bad_input` for what is no host */
export function allowHost(app: App, host: string, allowed: boolean, by: string): string[] {
  const plain = hostOf(`http://${host.trim()}`);
  if (!plain || /[/@?#\s]/.test(host.trim()))
    throw badInput('host', host, 'Write it like logger.local or 192.0.2.7:8080.');
  if (!allowed) store.dropHost(app.db, plain);
  else if (listHosts(app).length >= MOST) throw badInput('hosts', MOST + 1, `At most ${MOST}.`);
  else store.putHost(app.db, plain, by);
  log(app, 'rule', `Rules ${allowed ? 'may' : 'must not'} call ${plain}${allowed ? '' : ' any more'}.`, {
    by,
  });
  return listHosts(app);
}
