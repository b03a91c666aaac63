import { DISCREPANCY_STATES } from '$lib/core/fees';
import { listDiscrepancies } from '$lib/server/api/fees';
import { readChoice, route } from '$lib/server/api/problem';

export const GET = route('fees', ({ url }) => listDiscrepancies(readChoice(url, 'state', DISCREPANCY_STATES)));
