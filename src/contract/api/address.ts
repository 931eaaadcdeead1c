import type { Key } from '../api';

/** The address of an endpoint with its values. */
export function addressOf(
  key: Key,
  { params = {}, query = {} }: { params?: Record<string, string>; query?: Record<string, unknown> } = {},
): string {
  const path = key
    .slice(key.indexOf(' ') + 1)
    .replace(/\[(\.\.\.)?(\w+)\]/g, (_, rest: string | undefined, name: string) =>
      rest ? params[name].split('/').map(encodeURIComponent).join('/') : encodeURIComponent(params[name]),
    );
  const said = Object.entries(query).flatMap(([name, value]) =>
    value === undefined || value === null || value === false
      ? []
      : `${name}=${value === true ? '' : String(value).split(',').map(encodeURIComponent).join(',')}`,
  );
  return said.length ? `${path}?${said.join('&')}` : path;
}
