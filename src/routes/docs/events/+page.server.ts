import { EVENTS, HOOK_EVENTS, exampleOf, fieldsOfEvent } from '$lib/core/hooks';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = () => ({
	events: HOOK_EVENTS.map((kind) => ({
		kind,
		says: EVENTS[kind].says,
		fields: fieldsOfEvent(kind),
		example: JSON.stringify(exampleOf(kind), null, 2)
	}))
});
