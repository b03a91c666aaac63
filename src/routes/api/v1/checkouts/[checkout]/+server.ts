import { readCheckout } from '$lib/server/api/checkouts';
import { route } from '$lib/server/api/problem';

export const GET = route('checkouts', ({ params, token }) => readCheckout(token, params.checkout));
