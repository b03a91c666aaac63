import { db, type Tx } from '../db';
import { timeNow } from '../signals/clock';
import { tell } from '../signals/live';
import { wake } from '../signals/wake';

/**
 * Puts a mail to somebody of the business into the outbox, once for a cause.
 * @param to the name of a user, or a mail address; the first user of the business where nobody is called so
 */
export async function tellStaff(
	mail: { readonly cause: string; readonly to: string; readonly subject: string; readonly body: string },
	tx: Tx
): Promise<void> {
	const users = await db.users.find({}, { order: [['createdAt', 'ASC']] }, tx);
	const user = users.find((one) => one.name === mail.to || one.mail === mail.to) ?? users[0];
	const address = user?.mail ?? (mail.to.includes('@') ? mail.to : '');
	const cause = `staff ${mail.cause} ${address}`;
	if (!address || (await db.outbox.one({ cause }, tx))) return;
	await db.outbox.insert(
		{
			cause,
			event: 'staff',
			channel: 'mail',
			toAddress: address,
			toName: user?.name ?? '',
			language: 'en',
			subject: mail.subject,
			body: mail.body,
			state: 'waiting',
			byUser: 'itself',
			createdAt: timeNow()
		},
		tx
	);
	tx.afterCommit(() => {
		tell('bill');
		wake();
	});
}
