/** Runs a work one at a time. Who asks while it runs waits for one more run that begins afterwards, shared by all who ask meanwhile: what they
 *  changed before they asked is in what they get. */
export function oneAtATime(work: () => Promise<unknown>): () => Promise<void> {
  let running: Promise<void> | null = null;
  let next: Promise<void> | null = null;
  const start = () => {
    running = Promise.resolve(work())
      .then(() => undefined)
      .finally(() => (running = null));
    return running;
  };
  return () => {
    if (!running) return start();
    next ??= running
      .catch(() => undefined)
      .then(() => {
        next = null;
        return start();
      });
    return next;
  };
}
