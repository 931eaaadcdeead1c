import { asFarrierError, damaged, type ErrorText } from '$core/errors';
import type { SealState, TakeHead } from '$contract/take';
import { TakeReader } from '$store/take/reader';
import { recoverTake } from '$store/take/recover';
import { sealNow } from '$store/take/seal';
import { checkWhole } from '$store/take/whole';

export type AdoptOutcome =
  { head: TakeHead; durationS: number; signals: number; seal: SealState } | { fault: ErrorText };

/** Looks through a take file of another Farrier, so that it can become one of ours: it is read whole, closed where it was cut off, sealed where
 *  it was not. Done in a worker thread. */
export function adopt({ path, name, by }: { path: string; name: string; by: string }): AdoptOutcome {
  try {
    const first = new TakeReader(path);
    const { state, id } = first.head;
    first.close();
    if (!/^[\w-]{8,64}$/.test(id))
      throw damaged(name, 'The take does not say which one it is.', 'Copy it again.');
    if (state === 'recording') recoverTake(path, 'it was copied while it was recorded');
    checkWhole(path, name);
    const reader = new TakeReader(path);
    const found = reader.sealState();
    const { head, durationS } = reader;
    const signals = reader.signals.filter((s) => s.channelId).length;
    reader.close();
    return { head, durationS, signals, seal: found.state === 'not sealed' ? sealNow(path, by) : found };
  } catch (error) {
    const { text, code } = asFarrierError(error, name);
    // SQLite speaks of pages; what counts is that the file is not whole.
    if (code === 'unavailable' || /malformed|not a database/.test(text.what))
      return {
        fault: damaged(name, 'The take is damaged.', `Copy it again. (${text.what.slice(0, 200)})`).text,
      };
    return { fault: { ...text, where: name } };
  }
}
