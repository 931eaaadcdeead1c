declare module 'mat-for-js' {
  /** Another reader of MAT files: variables by their names. */
  export function read(content: ArrayBuffer): unknown;
}
