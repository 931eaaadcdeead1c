import { randomUUID } from 'node:crypto';
import { notFound } from '$core/errors';
import type { Drawing } from '$contract/drawing';
import { deleteDrawing, listDrawings, putDrawing } from '$store/drawings';
import { jobOf, log, type App } from '../app';

export const drawingsOf = (app: App) => listDrawings(app.db, jobOf(app).id);

/** Keeps a way to look at takes under a name. What had that name is written over: the logbook says so. */
export function keepDrawing(app: App, name: string, drawing: Drawing, by: string): { id: string } {
  const former = drawingsOf(app).find((d) => d.name.toLowerCase() === name.toLowerCase());
  const id = former?.id ?? randomUUID();
  putDrawing(app.db, jobOf(app).id, { id, name, drawing });
  log(
    app,
    'take',
    `The view “${name}” is ${former ? 'kept anew' : 'kept'}: ${drawing.channels.join(', ') || 'the usual channels'}.`,
    { by },
  );
  return { id };
}

/** @throws `not_found` */
export function forgetDrawing(app: App, id: string, by: string): void {
  const found = drawingsOf(app).find((d) => d.id === id);
  if (!found) throw notFound('view', id);
  deleteDrawing(app.db, id);
  log(app, 'take', `The view “${found.name}” is forgotten.`, { by });
}
