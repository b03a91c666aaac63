import { route } from '$lib/server/api/problem';
import { readRateCard } from '$lib/server/api/records';

export const GET = route('fees', ({ params }) => readRateCard(params.connection));
