import { randomId } from '../access';
import { db, write, type SavedViewRow } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

const AT_MOST = 40;

/** Named views of the list of payments, by name. */
export const savedViews = (): Promise<SavedViewRow[]> =>
	db.savedViews.find({}, { order: [['name', 'ASC']], limit: AT_MOST });

/** Keeps a filter under a name. The same name again replaces what it stood for. @returns what is wrong, if anything is */
export async function saveView(name: string, query: string, by: string): Promise<string | undefined> {
	const wanted = name.trim();
	if (!wanted) return 'Give the view a name.';
	if (wanted.length > 40) return 'At most 40 characters.';
	if (!query) return 'Filter the list first: a view without a filter is the whole list.';
	const problem = await write(async (tx) => {
		const views = await db.savedViews.find({}, {}, tx);
		const same = views.find((one) => one.name.toLowerCase() === wanted.toLowerCase());
		if (!same && views.length >= AT_MOST) return `There are ${AT_MOST} views already. Remove one first.`;
		if (same) await db.savedViews.update({ id: same.id }, { name: wanted, query, byUser: by }, tx);
		else await db.savedViews.insert({ id: randomId(), name: wanted, query, byUser: by, createdAt: timeNow() }, tx);
		return undefined;
	});
	tell('takings');
	return problem;
}

/** @returns the view that is gone, so that it can be put back */
export async function removeView(id: string): Promise<SavedViewRow | undefined> {
	const gone = await write(async (tx) => {
		const view = await db.savedViews.one({ id }, tx);
		if (view) await db.savedViews.remove({ id }, tx);
		return view;
	});
	tell('takings');
	return gone;
}
