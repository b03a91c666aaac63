import { instantIn, readDay } from '../core/calendar';
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

/**
 * Reads a moment that was typed as a day and a time of day, in two boxes, or in one as ISO 8601 writes it.
 * @param name the day's box; that of the time is called the same with `Time` behind
 * @returns milliseconds since 1970, or undefined where it is no moment
 */
export function readMoment(form: FormData, name: string, locale: string, timeZone: string): number | undefined {
	const typed = String(form.get(name) ?? '').trim();
	const whole = instantIn(typed, timeZone);
	if (whole !== undefined) return whole;
	const day = readDay(typed, locale);
	const time = /^(\d{1,2})[:.h](\d{2})$/.exec(String(form.get(`${name}Time`) ?? '').trim() || '00:00');
	return day && time ? instantIn(`${day}T${time[1]!.padStart(2, '0')}:${time[2]}`, timeZone) : undefined;
}
