import type { z, ZodType } from 'zod';

/** What is wrong with a small form, by the name of its box; and what was typed, which stays. */
export interface WrongForm {
	readonly errors: Readonly<Record<string, string>>;
	readonly values: Readonly<Record<string, string>>;
}

/** Reads a small form by its schema. */
export async function readForm<T extends ZodType>(
	request: Request,
	schema: T
): Promise<{ data: z.output<T> } | { wrong: WrongForm }> {
	const values = Object.fromEntries(
		[...(await request.formData())].filter((pair): pair is [string, string] => typeof pair[1] === 'string')
	);
	const read = schema.safeParse(values);
	if (read.success) return { data: read.data };
	const errors: Record<string, string> = {};
	for (const issue of read.error.issues) errors[String(issue.path[0] ?? '')] ??= issue.message;
	return { wrong: { errors, values } };
}
