import { STAGES } from '$lib/core/stages';
import { readPaging } from '$lib/server/api/checkouts';
import { listPayments } from '$lib/server/api/payments';
import { readChoice, readNumber, route } from '$lib/server/api/problem';

export const GET = route('payments', ({ url, token }) =>
	listPayments(token, {
		reference: url.searchParams.get('reference') ?? undefined,
		till: url.searchParams.get('till') ?? undefined,
		stage: readChoice(url, 'stage', STAGES),
		checkout: readNumber(url, 'checkout'),
		...readPaging(url)
	})
);
