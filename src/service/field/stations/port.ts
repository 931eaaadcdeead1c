import type { StationView, StationWish, StationsView } from '$contract/station';

/** What can be done with stations of the field. */
export interface StationPort {
  list(): StationsView;
  /** @throws `not_found` */
  view(id: string): StationView;
  add(wish: StationWish, by: string): { id: string };
  change(id: string, wish: StationWish, by: string): void;
  remove(id: string, by: string): void;
  reach(id: string): StationView;
  draft(id: string, text: string): void;
  send(id: string, text: string, withoutFetching: string | undefined, by: string): Promise<void>;
  fetch(id: string, tables: readonly string[] | undefined, by: string): Promise<void>;
  stop(id: string): void;
  setClock(id: string, by: string): Promise<void>;
  set(id: string, what: { what: 'output' | 'plus'; name: string; value: number }, by: string): Promise<void>;
  play(id: string, act: { do: string; seconds?: number; times?: number }): Promise<void>;
}
