import { route } from '$lib/server/api/problem';
import { listRateCards } from '$lib/server/api/records';

export const GET = route('fees', () => listRateCards());
