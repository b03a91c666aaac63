import { z } from 'zod';
import { audit, randomId } from '../access';
import { connectorOf, ConnectorError } from '../connectors';
import { db, write, type ApplicationRow } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';

export const ApplicationForm = z.object({
	number: z.string().trim().min(1, 'Give the number of the application.').max(60),
	mail: z.email('Give the mail address that the application was made with.').max(200)
});

const ASK_MS = 10 * 60_000;
export const papersOf = (row: ApplicationRow): string[] => db.applications.json.papers(row.papers);
export const allApplications = (): Promise<ApplicationRow[]> =>
	db.applications.find({ removedAt: null }, { order: [['createdAt', 'DESC']] });

/** Follows an application that was made at a processor. @returns what is wrong, if anything */
export async function follow(
	processor: string,
	form: z.infer<typeof ApplicationForm>,
	by: string
): Promise<string | undefined> {
	const { application, name } = connectorOf(processor);
	if (!application) return `${name} does not tell how far an application has come.`;
	try {
		const told = await application.state(form.number, form.mail);
		if (!told) return `${name} knows no application of this number and mail.`;
		await write(async (tx) => {
			const before = await db.applications.one({ processor, number: form.number, removedAt: null }, tx);
			const row = {
				state: told.state,
				papers: JSON.stringify(told.papers),
				says: '',
				askedAt: timeNow(),
				mail: form.mail
			};
			const id = before?.id ?? randomId();
			if (before) await db.applications.update({ id }, row, tx);
			else await db.applications.insert({ id, processor, number: form.number, ...row, createdAt: timeNow() }, tx);
			await audit(
				{ by, kind: 'application', id, name: `${name} ${form.number}`, act: 'followed', before, after: row },
				tx
			);
		});
		tell('connections');
		return undefined;
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return error.message;
	}
}

/** Asks how far applications have come; those that ended are not asked after again. */
export async function askApplications(now: number, all = false): Promise<void> {
	for (const row of await allApplications()) {
		if (row.state === 'open' || row.state === 'refused') continue;
		if (!all && now - row.askedAt < ASK_MS) continue;
		const { application, name } = connectorOf(row.processor);
		try {
			const told = await application?.state(row.number, row.mail);
			const after = told
				? { state: told.state, papers: JSON.stringify(told.papers), says: '', askedAt: now }
				: { says: `${name} does not know this application any more.`, askedAt: now };
			await write(async (tx) => {
				await db.applications.update({ id: row.id }, after, tx);
				if (told && told.state !== row.state)
					await audit(
						{
							by: name,
							kind: 'application',
							id: row.id,
							name: `${name} ${row.number}`,
							act: `is now: ${told.state}`,
							before: { state: row.state },
							after: { state: told.state }
						},
						tx
					);
			});
			tell('connections');
		} catch (error) {
			if (!(error instanceof ConnectorError)) throw error;
			await write((tx) => db.applications.update({ id: row.id }, { says: error.message, askedAt: now }, tx));
		}
	}
}

export async function unfollow(id: string, by: string): Promise<void> {
	await write(async (tx) => {
		const row = await db.applications.one({ id, removedAt: null }, tx);
		if (!row) return;
		await db.applications.update({ id }, { removedAt: timeNow() }, tx);
		await audit({ by, kind: 'application', id, name: `${row.processor} ${row.number}`, act: 'no longer followed' }, tx);
	});
}
