import { TryOut } from '$contract/unit';
import { probe, tryOut } from '$service/units';
import { readJson, route } from '../../../../http';

export const GET = route(({ locals, params }) => probe(locals.app, params.serial!, params.terminal!));
/** Sets a terminal by hand, outside a recording. */
export const POST = route(async ({ locals, request, params }) =>
  tryOut(
    locals.app,
    params.serial!,
    params.terminal!,
    await readJson(request, TryOut),
    locals.person.viewer.name,
  ),
);
