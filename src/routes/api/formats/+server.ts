import { formats } from '$service/exchange';
import { route } from '../../http';

export const GET = route(() => formats());
