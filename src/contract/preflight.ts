/** Something to know before a take is armed. */
export interface PreflightCheck {
  how: 'wrong' | 'doubtful' | 'good to know';
  where: string;
  what: string;
  why?: string;
  next: string;
  /** The way out: a page, or something that can be done at once. */
  way?: {
    label: string;
    href?: string;
    act?: { key: 'POST /api/record' | 'POST /api/alarms'; body: unknown };
  };
}

/** Whether it needs a reason to arm all the same. */
export const objections = (checks: PreflightCheck[]) => checks.filter((c) => c.how !== 'good to know');
