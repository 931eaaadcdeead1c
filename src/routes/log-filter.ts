/** What of the logbook an address asks for. */
export function filterOf(url: URL) {
  const text = (key: string) => url.searchParams.get(key)?.slice(0, 100) || undefined;
  return {
    kind: text('kind'),
    takeId: text('take'),
    text: text('find'),
    before: Number(text('before')) || undefined,
  };
}
