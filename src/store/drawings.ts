import { notFound } from '$core/errors';
import { Drawing, type NamedDrawing } from '$contract/drawing';
import { Series, type NamedSeries, type SeriesWord } from '$contract/series';
import { asc, eq } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

/** Ways to look at takes that are kept by name. */
export const listDrawings = (db: Db, jobId: string): NamedDrawing[] =>
  db
    .select()
    .from(t.drawings)
    .where(eq(t.drawings.jobId, jobId))
    .orderBy(asc(t.drawings.name))
    .all()
    // One that this version cannot read keeps no page from opening.
    .flatMap(({ id, name, body }) => {
      const { data } = Drawing.safeParse(body);
      return data ? [{ id, name, drawing: data }] : [];
    });
export const putDrawing = (db: Db, jobId: string, { id, name, drawing }: NamedDrawing): void =>
  void db
    .insert(t.drawings)
    .values({ id, jobId, name, body: drawing })
    .onConflictDoUpdate({ target: t.drawings.id, set: { name, body: drawing } })
    .run();
export const deleteDrawing = (db: Db, id: string): void =>
  void db.delete(t.drawings).where(eq(t.drawings.id, id)).run();

// Series

export const listSeries = (db: Db, jobId: string): NamedSeries[] =>
  db
    .select()
    .from(t.series)
    .where(eq(t.series.jobId, jobId))
    .orderBy(asc(t.series.name))
    .all()
    .flatMap(({ id, name, body }) => {
      const { data } = Series.safeParse(body);
      return data ? [{ id, name, series: data }] : [];
    });
/** @throws `not_found` */
export function getSeries(db: Db, id: string): NamedSeries {
  const row = db.select().from(t.series).where(eq(t.series.id, id)).get();
  if (!row) throw notFound('series', id);
  return { id: row.id, name: row.name, series: Series.parse(row.body) };
}
export const putSeries = (db: Db, jobId: string, { id, name, series }: NamedSeries): void =>
  void db
    .insert(t.series)
    .values({ id, jobId, name, body: series })
    .onConflictDoUpdate({ target: t.series.id, set: { name, body: series } })
    .run();
export const deleteSeries = (db: Db, id: string): void =>
  void db.delete(t.series).where(eq(t.series.id, id)).run();

/** What was said of the rows of a series, by take, the last word last. */
export function seriesWords(db: Db, seriesId: string): Map<string, SeriesWord[]> {
  const found = new Map<string, SeriesWord[]>();
  const rows = db.select().from(t.seriesWords).where(eq(t.seriesWords.seriesId, seriesId)).orderBy(asc(t.seriesWords.id)).all(); // prettier-ignore
  for (const { takeId, at, by, counts, reason } of rows)
    found.set(takeId, [...(found.get(takeId) ?? []), { at, by, counts, reason }]);
  return found;
}
export const addSeriesWord = (db: Db, seriesId: string, takeId: string, word: SeriesWord): void =>
  void db
    .insert(t.seriesWords)
    .values({ seriesId, takeId, ...word })
    .run();
