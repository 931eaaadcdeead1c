/** Questions that are on the line at once: while one is answered the next ones are on their way. */
const AT_ONCE = 8;

/** Fetches what an instrument counts – readings, rows – in pieces, in their order: several questions are on the line at once, and what an answer lacks is asked for again.
 *  @param ask answers `count` from `at` on, or fewer @param length of a piece @param end one after the last that is wanted
 *  @throws what `ask` throws; what was handed on before stays */
export async function fetchPieces<P>(
  ask: (at: number, count: number) => Promise<P>,
  length: (piece: P) => number,
  from: number,
  end: number,
  took: (piece: P) => void | Promise<void>,
  signal?: { readonly aborted: boolean },
): Promise<void> {
  let at = from;
  if (at >= end) return;
  // The first answer says how many come at a time.
  const one = await ask(at, end - at);
  let each = length(one);
  if (each === 0) return;
  await took(one);
  at += each;
  const asked: Promise<P>[] = [];
  let next = at;
  while (at < end && !signal?.aborted) {
    for (; asked.length < AT_ONCE && next < end; next += each) {
      const question = ask(next, Math.min(each, end - next));
      question.catch(() => undefined); // the one before may fail first
      asked.push(question);
    }
    const piece = await asked.shift()!;
    const came = length(piece);
    if (came === 0) return;
    await took(piece);
    at += came;
    // Fewer than were asked for: what was asked behind them would leave a hole.
    if (at < end && came < each) {
      await Promise.allSettled(asked.splice(0));
      each = came;
      next = at;
    }
  }
  await Promise.allSettled(asked);
}
