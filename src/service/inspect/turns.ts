/** Two that change one take at once would each write over what the other has just made: the second waits. */
const turns = new Map<string, Promise<unknown>>();
export async function inTurn<T>(take: string, work: () => Promise<T>): Promise<T> {
  const before = turns.get(take) ?? Promise.resolve();
  const own = before.catch(() => undefined).then(work);
  turns.set(take, own);
  try {
    return await own;
  } finally {
    if (turns.get(take) === own) turns.delete(take);
  }
}
