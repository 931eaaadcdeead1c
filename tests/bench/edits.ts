import { FRAME_KINDS, FrameReader, decodeJson, type LiveNote } from '$contract/live';
import { ALL_PARTS, CHANGED_BY, type Part, type Parts } from '$contract/overview';
import { report } from './report';

const GOAL_MS = 150;
const TIMES = 15;

/** How long it takes until an edit of a name in one browser is known in another: told over its live feed, and fetched part by part as its page
 *  does. */
export async function edits(base: string): Promise<void> {
  const setup = (await (await fetch(`${base}/api/setup`)).json()) as { channels: { id: string }[] };
  const { id } = setup.channels[setup.channels.length >> 1];
  const stop = new AbortController();
  const looker = await fetch(`${base}/api/live?strips=&waves=`, { signal: stop.signal });
  let versions: Record<string, string> = {};
  let seen: (name: string | undefined, bytes: number) => void = () => undefined;
  const fetchParts = async (parts: readonly Part[]) => {
    const known = parts.flatMap((p) => (versions[p] ? [`${p}:${versions[p]}`] : []));
    const text = await (
      await fetch(`${base}/api/overview?parts=${parts.join()}&known=${known.join()}`)
    ).text();
    const found = JSON.parse(text) as Parts;
    versions = { ...versions, ...found.versions };
    return { channel: found.parts.channels?.find((c) => c.id === id), bytes: text.length };
  };
  await fetchParts(ALL_PARTS);
  const frames = new FrameReader();
  void (async () => {
    for await (const piece of looker.body!)
      for (const { kind, payload } of frames.push(piece as Uint8Array)) {
        if (kind !== FRAME_KINDS.note) continue;
        const [note, ...more] = decodeJson<LiveNote[]>(payload);
        if (more.length || !(note?.kind in CHANGED_BY)) continue; // what was told on connecting is no news
        const { channel, bytes } = await fetchParts(CHANGED_BY[note.kind]);
        seen(channel?.name, bytes);
      }
  })().catch(() => undefined);
  const times: number[] = [];
  let fetched = 0;
  for (let k = 0; k < TIMES; k++) {
    const name = `Renamed ${k}`;
    const began = performance.now();
    const known = new Promise<void>((resolve, reject) => {
      setTimeout(() => reject(new Error('The edit was never told.')), 10_000).unref();
      seen = (found, bytes) => {
        if (found !== name) return;
        fetched = bytes;
        resolve();
      };
    });
    const answer = await fetch(`${base}/api/channels/${id}`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json', origin: base },
      body: JSON.stringify({ name }),
    });
    if (!answer.ok) throw new Error(await answer.text());
    await known;
    times.push(performance.now() - began);
  }
  stop.abort();
  const median = times.sort((a, b) => a - b)[TIMES >> 1];
  report({
    name: `edit of a name, known in another browser, ${setup.channels.length} channels, ${Math.round(fetched / 1000)} kB fetched`,
    value: median,
    unit: 'ms',
    reference: `the goal of ${GOAL_MS} ms`,
    ratio: median / GOAL_MS,
  });
}
