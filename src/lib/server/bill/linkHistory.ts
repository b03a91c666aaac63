import { db } from '../db';
import { linkSettings } from './links';

/** How a link came to be what it is, the newest first: what each change changed. */
export async function linkHistory(linkId: string) {
	const rows = await db.payLinkVersions.find({ linkId }, { order: [['revision', 'DESC']], limit: 50 });
	return rows.map((row, at) => {
		const before = rows[at + 1];
		const [now, was] = [linkSettings(row), before && linkSettings(before)];
		const changed = was
			? Object.keys(now).filter((name) => JSON.stringify(now[name as 'title']) !== JSON.stringify(was[name as 'title']))
			: [];
		return { revision: row.revision, by: row.byUser, at: row.at, says: was ? `changed ${changed.join(', ')}` : 'made' };
	});
}
