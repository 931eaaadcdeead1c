import { randomUUID } from 'node:crypto';
import { sentenceText } from '$core/sentence/sentence';
import { signalsByRole } from '$core/studies/inputs';
import { STUDY_KINDS, studyKind } from '$core/studies/registry';
import type { StudyKind } from '$core/studies/study';
import { nameText } from '$contract/name-text';
import type { RecipeView } from '$contract/study';
import { getStudy } from '$store/entities';
import { deleteRecipe, listRecipes, putRecipe } from '$store/recipes';
import { log, type App } from '../app';
import { check } from '../check';
import { openTake } from '../takes';
import { bodyOf } from './inputs';

/** Values of the roles one by one, others as they are. */
const inRoles = (
  { roles }: Pick<StudyKind, 'roles'>,
  settings: Record<string, unknown>,
  of: (channel: string) => string | undefined,
): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(settings).map(([key, held]) => {
      if (!roles.some((r) => r.key === key)) return [key, held];
      if (Array.isArray(held)) return [key, held.map((id: string) => of(id) ?? id)];
      return [key, typeof held === 'string' ? (of(held) ?? held) : held];
    }),
  );

/** Keeps the settings of a study by a name, without its take: its channels are called by theirs. Of the same name it is written over.
 *  @throws `not_found`, `bad_input` */
export function keepRecipe(
  app: App,
  { study, name }: { study: string; name: string },
  by: string,
): { id: string } {
  const row = getStudy(app.db, study);
  const kind = studyKind(row.kind);
  const { settings, takes } = bodyOf(row);
  const called = new Map(openTake(app, takes[0]).signals.map((s) => [s.channelId, s.name]));
  const kept = check(nameText(80), name);
  const id = listRecipes(app.db).find((r) => r.name === kept)?.id ?? randomUUID();
  // A span belongs to the take that it was chosen in.
  const rest = Object.fromEntries(Object.entries(settings).filter(([key]) => key !== 'from' && key !== 'to'));
  putRecipe(app.db, { id, name: kept, kind: row.kind, settings: inRoles(kind, rest, (c) => called.get(c)) });
  log(app, 'study', `The recipe “${kept}” was kept from ${bodyOf(row).name}.`, { by });
  return { id };
}

/** What is kept, as it would be made of a take: with its channels, or what it lacks. @throws `not_found`, `damaged` */
export function recipesFor(app: App, takeId: string): RecipeView[] {
  const reader = openTake(app, takeId);
  const offered = reader.signals.flatMap((s) => (s.channelId ? [{ ...s, id: s.channelId }] : []));
  const ids = new Map(offered.map((s) => [s.name, s.id]));
  return listRecipes(app.db).flatMap((recipe): RecipeView[] => {
    const kind = STUDY_KINDS.find((k) => k.kind === recipe.kind);
    if (!kind) return [];
    const settings = inRoles(kind, recipe.settings, (name) => ids.get(name));
    const names = { channel: (id: string) => offered.find((s) => s.id === id) ?? { name: id, unit: '' } };
    const says = sentenceText(kind.sentence, { ...kind.defaults, ...settings }, names);
    let lacks: string | null = null;
    try {
      signalsByRole(kind, settings, offered, reader.head.name);
    } catch (error) {
      lacks = (error as Error).message;
    }
    const { id, name } = recipe;
    return [{ id, name, kind: kind.kind, title: kind.title, settings, says, lacks }];
  });
}

/** @throws `not_found` */
export function forgetRecipe(app: App, id: string, by: string): void {
  const name = listRecipes(app.db).find((r) => r.id === id)?.name;
  deleteRecipe(app.db, id);
  log(app, 'study', `The recipe “${name}” was taken away.`, { by });
}
