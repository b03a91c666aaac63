import { listPrices } from '$lib/server/api/invoices';
import { route } from '$lib/server/api/problem';

export const GET = route('billing', () => listPrices());
