import { readPayment } from '$lib/server/api/payments';
import { route } from '$lib/server/api/problem';

export const GET = route('payments', ({ params, token }) => readPayment(token, params.payment));
