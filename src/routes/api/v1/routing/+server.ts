import { readRouting } from '$lib/server/api/fees';
import { route } from '$lib/server/api/problem';

export const GET = route('fees', ({ url }) => readRouting(url));
