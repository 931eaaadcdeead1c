/** Version of the computation, kept with every result: raised whenever a change alters numbers. */
export const CORE_VERSION = 1;
