import { EndpointForm } from './endpoints';

export interface TypedEndpoint {
	readonly address: string;
	readonly description: string;
	readonly kinds: string[];
}

/** Reads the form of an endpoint. What is wrong is told by field, with what was typed. */
export function readEndpoint(
	form: FormData
): { form: EndpointForm } | { errors: Record<string, string>; typed: TypedEndpoint } {
	const typed: TypedEndpoint = {
		address: String(form.get('address') ?? ''),
		description: String(form.get('description') ?? ''),
		kinds: form.get('all') === 'no' ? form.getAll('kind').map(String) : []
	};
	if (form.get('all') === 'no' && !typed.kinds.length)
		return { errors: { kinds: 'Choose at least one event.' }, typed };
	const read = EndpointForm.safeParse(typed);
	if (read.success) return { form: read.data };
	return {
		errors: Object.fromEntries(read.error.issues.map((one) => [String(one.path[0] ?? 'address'), one.message])),
		typed
	};
}
