/** A thing of the drawer that a channel can be compared with. */
export interface ReferenceChoice {
  serial: string;
  name: string;
  unit: string;
  goodTo: number;
  goodToShare: number;
  due: string;
}
