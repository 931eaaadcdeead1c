import { notFound } from '$core/errors';
import { asc, eq } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

/** A study without its take: what it is made of is called by name. */
export interface RecipeRow {
  id: string;
  name: string;
  kind: string;
  settings: Record<string, unknown>;
}

export const listRecipes = (db: Db): RecipeRow[] =>
  db
    .select()
    .from(t.recipes)
    .orderBy(asc(t.recipes.name))
    .all()
    .map(({ id, name, kind, body }) => ({ id, name, kind, settings: body as Record<string, unknown> }));

/** Keeps a recipe; one of that name is written over. */
export const putRecipe = (db: Db, { id, name, kind, settings }: RecipeRow): void =>
  void db
    .insert(t.recipes)
    .values({ id, name, kind, body: settings })
    .onConflictDoUpdate({ target: t.recipes.name, set: { kind, body: settings } })
    .run();

/** @throws `not_found` */
export function deleteRecipe(db: Db, id: string): void {
  const { changes } = db.delete(t.recipes).where(eq(t.recipes.id, id)).run();
  if (changes === 0) throw notFound('recipe', id);
}
