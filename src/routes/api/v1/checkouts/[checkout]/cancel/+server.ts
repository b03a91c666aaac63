import { cancelCheckout } from '$lib/server/api/checkouts';
import { route } from '$lib/server/api/problem';

export const POST = route('checkouts', ({ params, token }) => cancelCheckout(token, params.checkout));
