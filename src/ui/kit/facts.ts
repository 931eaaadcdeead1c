/** A number with what it is; one that is doubtful is marked. */
export interface Fact {
  label: string;
  value: string;
  unit?: string;
  doubtful?: boolean;
  /** By which tests find it. */
  id?: string;
}
