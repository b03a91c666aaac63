import { route } from '$lib/server/api/problem';
import { readTill, tillAt } from '$lib/server/api/tills';

export const GET = route(async ({ params }) => readTill(await tillAt(params.till)));
