/** A warning or alarm: it stays until it is over and somebody has acknowledged it. */
export interface Alarm {
  id: number;
  /** A channel's id, or “rule ” and a rule's. */
  source: string;
  level: 'warning' | 'alarm';
  says: string;
  at: number;
  outAt: number | null;
  takenAt: number | null;
  takenBy: string | null;
}

export interface Shelf {
  source: string;
  until: number;
  why: string;
  by: string;
}

/** What all open pages know of alarms. */
export interface AlarmNews {
  open: Alarm[];
  shelved: Shelf[];
  /** Whether somebody has quietened the sound of those that are open. */
  quiet: boolean;
}
