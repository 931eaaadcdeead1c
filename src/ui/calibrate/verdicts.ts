import type { Verdict } from '$contract/proof';

/** A sign beside each verdict's word, so that colour never stands alone. */
export const VERDICT_SIGN: Record<Verdict, string> = {
  broken: '✕',
  off: '▲',
  'never proven': '○',
  expired: '◷',
  'changed since': '△',
  'due soon': '◔',
  proven: '✓',
  'nothing to prove': '',
};

export const dayOf = (at: number | null) =>
  at === null
    ? ''
    : new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
