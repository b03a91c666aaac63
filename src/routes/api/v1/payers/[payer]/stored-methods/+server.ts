import { listStoredMethods } from '$lib/server/api/payers';
import { route } from '$lib/server/api/problem';

export const GET = route('payers', ({ params }) => listStoredMethods(params.payer));
