import { page } from '$app/state';

/** The address of this page with something else in it; what is empty leaves it. */
export function addressWith(changes: Readonly<Record<string, string>>): string {
	const query = new URLSearchParams(page.url.searchParams);
	for (const [name, value] of Object.entries(changes)) {
		if (value) query.set(name, value);
		else query.delete(name);
	}
	return `?${query}`;
}

export type Ready = Extract<import('./$types').PageData, { mix: unknown }>;
