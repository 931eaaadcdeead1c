/** What kind of fault it is, for programs; people read the four sentences. */
export type ErrorCode =
  'bad_input' | 'not_found' | 'conflict' | 'damaged' | 'unavailable' | 'not_allowed' | 'cancelled';

/** The four things a person needs to know about a fault. */
export interface ErrorText {
  /** What happened, with the offending value. */
  what: string;
  /** Which channel, file, field or terminal. */
  where?: string;
  why?: string;
  /** The next step. */
  next?: string;
}

/** The one error type of the application: reads the same in the log, the API and the page. */
export class FarrierError extends Error {
  constructor(
    readonly code: ErrorCode,
    readonly text: ErrorText,
  ) {
    super(
      [text.where && `${text.where}: ${text.what}`, !text.where && text.what, text.why, text.next]
        .filter(Boolean)
        .join(' '),
    );
    this.name = 'FarrierError';
  }
}

/** A value as it is shown inside an error sentence. */
function show(value: unknown): string {
  if (typeof value === 'string') return `“${value.length > 60 ? value.slice(0, 57) + '…' : value}”`;
  if (typeof value === 'number' || typeof value === 'bigint') return String(value);
  return value === null || value === undefined
    ? 'nothing'
    : (JSON.stringify(value) ?? typeof value).slice(0, 80);
}

export const badInput = (field: string, value: unknown, next: string) =>
  new FarrierError('bad_input', { what: `${field} is ${show(value)}.`, where: field, next });
export const notFound = (thing: string, id: string) =>
  new FarrierError('not_found', {
    what: `There is no ${thing} ${show(id)}.`,
    where: thing,
    next: 'It may have been removed: open the list again.',
  });
export const conflict = (where: string, what: string, next: string) =>
  new FarrierError('conflict', { what, where, next });
export const damaged = (where: string, what: string, next: string) =>
  new FarrierError('damaged', { what, where, next });
export const cancelled = (where: string) =>
  new FarrierError('cancelled', { what: 'Cancelled before it was done.', where });

/** Any thrown thing as the error type; what was not foreseen keeps its message as the reason. */
export function asFarrierError(thrown: unknown, where: string): FarrierError {
  if (thrown instanceof FarrierError) return thrown;
  const why = thrown instanceof Error ? thrown.message : String(thrown);
  return new FarrierError('unavailable', {
    what: 'This did not work.',
    where,
    why,
    next: 'Try again; the logbook keeps this entry.',
  });
}
