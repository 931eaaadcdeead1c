import type { FieldView, Placed, RecorderReadings, RecorderWish } from '$contract/field';

/** What a recorder asks for from now on. */
export interface Lock {
  password: string;
  for: 'setting up' | 'fetching too';
}

/** What can be done with instruments of the field. */
export interface FieldPort {
  view(): FieldView;
  change(held: { cradles: string[]; fetches: boolean }, by: string): void;
  setUp(
    serial: string,
    wish: RecorderWish,
    more: { password?: string; lock?: Lock | null },
    by: string,
  ): Promise<void>;
  fetchNow(serial: string, password: string | undefined): Promise<void>;
  sleep(serial: string, password: string | undefined, by: string): Promise<void>;
  setBatch(wish: RecorderWish | null, by: string): void;
  clear(serial: string, by: string): Promise<void>;
  place(serial: string, placed: Placed, by: string): void;
  /** Keeps a set-up under a name; null takes it away. */
  template(name: string, wish: RecorderWish | null): void;
  play(act: {
    do: 'put' | 'out' | 'press' | 'battery' | 'speed';
    serial: string;
    times?: number;
  }): Promise<void>;
  readings(serial: string): RecorderReadings;
}
