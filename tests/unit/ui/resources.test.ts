import { describe, expect, test } from 'vitest';
import type { Begun, Overview, Part, Parts } from '$contract/overview';
import { Resources } from '$ui/shell/resources.svelte';

/** A server whose parts are texts, each with its version. */
class Server {
  now: Record<string, string> = { job: 'Job', takes: 'none', studies: '0' };
  asked: { parts: Part[]; known: string[] }[] = [];
  private waiting: (() => void)[] = [];
  slow = false;
  ask = async (parts: Part[], known: string[]): Promise<Parts> => {
    this.asked.push({ parts, known });
    if (this.slow) await new Promise<void>((resolve) => this.waiting.push(resolve));
    const fresh = parts.filter((p) => !known.includes(`${p}:${this.now[p]}`));
    return {
      parts: Object.fromEntries(fresh.map((p) => [p, this.now[p]])),
      versions: Object.fromEntries(fresh.map((p) => [p, this.now[p]])),
    };
  };
  /** Lets one request through. */
  answer = () => this.waiting.shift()?.();
  begun = (): Begun => ({
    overview: { ...this.now } as unknown as Overview,
    versions: { ...this.now },
  });
}
function page() {
  const server = new Server();
  let begun = server.begun();
  const resources = new Resources(() => begun, server.ask);
  return {
    server,
    resources,
    shown: () => resources.overview as unknown as Record<string, string>,
    openAnew: (to: Begun = server.begun()) => void (begun = to),
  };
}

describe('what every page shows', () => {
  test('is fetched part by part, by what is not known yet', async () => {
    const { server, resources, shown } = page();
    server.now.takes = 'one';
    server.now.studies = '1';
    await resources.fetch(['takes', 'job']);
    expect(server.asked).toEqual([{ parts: ['takes', 'job'], known: ['takes:none', 'job:Job'] }]);
    expect(shown()).toEqual({ job: 'Job', takes: 'one', studies: '0' }); // nobody asked for studies
    await resources.fetch(['takes']);
    expect(server.asked[1]).toEqual({ parts: ['takes'], known: ['takes:one'] });
    await resources.fetch(['studies']);
    expect(shown()).toEqual({ job: 'Job', takes: 'one', studies: '1' });
  });

  test('is fetched once for all that is asked meanwhile, and whoever waits has what was there when they asked', async () => {
    const { server, resources, shown } = page();
    server.slow = true;
    const first = resources.fetch(['takes']);
    server.now.takes = 'two';
    const second = resources.fetch(['takes']);
    const third = resources.fetch(['studies']);
    expect(server.asked).toHaveLength(1);
    server.answer();
    await first;
    await Promise.resolve();
    server.answer();
    await Promise.all([second, third]);
    expect(server.asked).toHaveLength(2);
    expect(server.asked[1].parts).toEqual(['takes', 'studies']);
    expect(shown().takes).toBe('two');
  });

  test('that comes for a page that was fetched anew meanwhile is not mixed into it', async () => {
    const { server, resources, shown, openAnew } = page();
    await resources.fetch(['takes']);
    server.now.takes = 'old';
    server.slow = true;
    const late = resources.fetch(['takes']);
    server.now.takes = 'new';
    openAnew();
    server.answer();
    await late;
    expect(shown().takes).toBe('new');
  });

  test('is asked for by nobody before one is let in, and a request that fails is made again with the next', async () => {
    const { server, resources, openAnew } = page();
    openAnew({ overview: null, versions: {} });
    await resources.fetch(['takes']);
    expect(server.asked).toEqual([]);
    expect(resources.overview).toBeNull();
    openAnew();
    const broken = new Resources(server.begun, () => Promise.reject(new TypeError('gone')));
    await expect(broken.fetch(['takes'])).rejects.toThrow('gone');
    await expect(broken.fetch(['takes'])).rejects.toThrow('gone'); // not stuck
  });
});
