import { route } from '../../../../http';

/** The raw reading of a terminal now, free or in use. */
export const GET = route(({ locals, params }) =>
  locals.app.engine.command({ do: 'probe', unit: params.serial!, terminal: params.terminal! }),
);
