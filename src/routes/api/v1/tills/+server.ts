import { route } from '$lib/server/api/problem';
import { listTills } from '$lib/server/api/tills';

export const GET = route('tills', ({ token }) => listTills(token));
