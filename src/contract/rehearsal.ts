export interface RehearsalEvent {
  /** s after the begin of the take */
  atS: number;
  kind: string;
  says: string;
  by?: string;
}

/** What plan and rules would have done during a recorded take. */
export interface Rehearsal {
  takeName: string;
  durationS: number;
  events: RehearsalEvent[];
  /** Takes that would have been made, on the axis of the take that was played. */
  takes: { name: string; fromS: number; toS: number; open: boolean }[];
  /** How often each rule fired, by its id. */
  fired: Record<string, number>;
  /** Channels that the take does not hold. */
  missing: string[];
  tookS: number;
}
