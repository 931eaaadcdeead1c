import type { Begun, Overview, Part, Parts, Versions } from '$contract/overview';
import { oneAtATime } from './one-at-a-time';

/** What every page shows, kept up to date part by part. */
export class Resources {
  /** What came since, and what it was added to: a page that is fetched anew begins anew. */
  private newer = $state.raw<Parts & { to: Versions | null }>({ to: null, parts: {}, versions: {} });
  private wanted = new Set<Part>();
  private readonly work = oneAtATime(() => this.run());

  /** @param begun what the page was fetched with @param ask fetches parts, without those whose version is known */
  constructor(
    private readonly begun: () => Begun,
    private readonly ask: (parts: Part[], known: string[]) => Promise<Parts>,
  ) {}

  get overview(): Overview | null {
    const { overview, versions } = this.begun();
    const { to, parts } = this.newer;
    return overview && to === versions ? { ...overview, ...parts } : overview;
  }

  /** Fetches what is new of some parts. What is asked for while it is fetched is fetched once, afterwards. */
  fetch(parts: readonly Part[]): Promise<void> {
    for (const part of parts) this.wanted.add(part);
    return this.work();
  }

  private async run(): Promise<void> {
    const parts = [...this.wanted];
    this.wanted.clear();
    const begun = this.begun();
    if (parts.length === 0 || !begun.overview) return;
    const held = () => (this.newer.to === begun.versions ? this.newer : { parts: {}, versions: {} });
    const versions = { ...begun.versions, ...held().versions };
    const known = parts.flatMap((part) => (versions[part] ? [`${part}:${versions[part]}`] : []));
    const found = await this.ask(parts, known);
    if (this.begun().versions !== begun.versions || Object.keys(found.versions).length === 0) return;
    this.newer = {
      to: begun.versions,
      parts: { ...held().parts, ...found.parts },
      versions: { ...held().versions, ...found.versions },
    };
  }
}
