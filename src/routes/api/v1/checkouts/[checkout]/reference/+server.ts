import { setCheckoutReference } from '$lib/server/api/checkouts';
import { readBody, route } from '$lib/server/api/problem';
import { OutsidePut } from '$lib/server/api/schemas';

export const PUT = route('checkouts', async ({ params, request, token }) =>
	setCheckoutReference(token, params.checkout, (await readBody(request, OutsidePut)).outsideReference)
);
