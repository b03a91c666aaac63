import { closePayLink } from '$lib/server/api/payLinks';
import { route } from '$lib/server/api/problem';

export const POST = route('billing', ({ params, token }) => closePayLink(params.link, false, `token ${token.name}`));
