import { readInvoice } from '$lib/server/api/invoices';
import { route } from '$lib/server/api/problem';

export const GET = route('billing', ({ params }) => readInvoice(params.invoice));
