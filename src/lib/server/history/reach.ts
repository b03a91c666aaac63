import { daysReach } from '../db';

/** How many captured payments are known, and from which day to which. */
export async function pastReach(): Promise<{ count: number; from: string; to: string }> {
	const { count, from, to } = await daysReach();
	return { count, from: from ?? '', to: to ?? '' };
}
