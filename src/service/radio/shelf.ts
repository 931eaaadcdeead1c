import { notFound } from '$core/errors';
import { NoiseSource } from '$contract/radio-noise';
import { Correction, LimitSet } from '$contract/radio-kept';
import { deleteKept, listKept, putKept } from '$store/radio-kept';
import type { z } from 'zod';
import { log, type App } from '../app';
import { check } from '../check';

/** Things of one kind that outlive jobs, by their names; points in ascending order of frequency. */
class Shelf<S extends z.ZodType> {
  constructor(
    private readonly app: App,
    private readonly kind: string,
    private readonly schema: S,
    private readonly nameOf: (thing: z.infer<S>) => string,
    private readonly pointsOf: (thing: z.infer<S>) => { hz: number }[][],
  ) {}

  private id = (name: string) => `${this.kind}: ${name}`;
  list(): z.infer<S>[] {
    return listKept(this.app.db, this.kind, null).map((row) => this.schema.parse(row.body));
  }
  find = (name: string | null): z.infer<S> | null =>
    this.list().find((thing) => this.nameOf(thing) === name) ?? null;

  /** Keeps a thing; one of that name is written over. @throws `bad_input` */
  put(thing: unknown, by: string): z.infer<S> {
    const read = check(this.schema, thing);
    const lines = this.pointsOf(read);
    for (const points of lines) points.sort((a, b) => a.hz - b.hz);
    const name = this.nameOf(read);
    putKept(this.app.db, {
      id: this.id(name),
      jobId: null,
      kind: this.kind,
      name,
      at: Date.now(),
      body: read as Record<string, unknown>,
    });
    log(this.app, 'radio', `The ${this.kind} ${name} was kept, ${lines.flat().length} points.`, { by });
    return read;
  }
  /** @throws `not_found` */
  drop(name: string, by: string): void {
    if (!this.find(name)) throw notFound(this.kind, name);
    deleteKept(this.app.db, this.id(name));
    log(this.app, 'radio', `The ${this.kind} ${name} was taken away.`, { by });
  }
}

export const noiseSources = (app: App) => new Shelf(app, 'noise source', NoiseSource, (s) => s.serial, (s) => [s.points]); // prettier-ignore
export const corrections = (app: App) => new Shelf(app, 'correction', Correction, (c) => c.name, (c) => [c.points]); // prettier-ignore
export const limitSets = (app: App) => new Shelf(app, 'limits', LimitSet, (l) => l.name, (l) => l.lines.map((x) => x.points)); // prettier-ignore
