import { lineUpsOf } from './accept/lineups';
import { allTills } from './accept/tills';
import { db } from './db';

/** One step of the first day: whether it is done, seen from what is stored, and where it is done. */
export interface FirstStep {
	readonly title: string;
	readonly why: string;
	readonly isDone: boolean;
	readonly href: string;
	readonly act: string;
}

/** Whether one of the latest payments at a till brought money. */
async function latestPaid(): Promise<boolean> {
	const asked = await db.paymentRequests.find({}, { order: [['paymentId', 'DESC']], limit: 20 });
	const paid = asked.length ? await db.payments.find({ id: asked.map((one) => one.paymentId) }) : [];
	return paid.some((one) => one.taken > 0);
}

/**
 * What is left to do after set-up until payers can pay and everything was tried once. Empty when all of it is done; what was
 * done once stays done, also when a connection is removed later.
 */
export async function firstSteps(): Promise<FirstStep[]> {
	const [connections, offline, tills, trial, paid] = await Promise.all([
		db.connections.find({}, { order: [['createdAt', 'ASC']] }),
		db.offlineMethods.one({}),
		allTills(),
		db.trials.find({}, { order: [['at', 'DESC']], limit: 20 }),
		latestPaid()
	]);
	const versions = await Promise.all(tills.map(async (till) => ({ till, ...(await lineUpsOf(till.id)) })));
	const open = versions.find((one) => one.published) ?? versions[0];
	const here = connections.find((row) => !row.removedAt);
	const steps: FirstStep[] = [
		{
			title: 'Connect a processor',
			why: 'With test keys first, if you like: its cards can then be taken.',
			isDone: connections.length > 0,
			href: '/connect/processors',
			act: 'Choose a processor'
		},
		{
			title: 'Add an offline method',
			why: 'A transfer to your own account, cash or a cheque: for payers without a card.',
			isDone: !!offline,
			href: '/connect/offline/new',
			act: 'Add an offline method'
		},
		{
			title: 'Set up a till, and publish its line-up',
			why: 'A till is a place where someone pays; its line-up says which ways to pay it offers.',
			isDone: versions.some((one) => one.published),
			href: open ? `/accept/tills/${open.till.slug}` : '/accept/tills/new',
			act: open ? `Publish ${open.till.name}` : 'Set up a till'
		},
		{
			title: 'Make a trial payment',
			why: 'End to end in test mode: the page, the notification and the record, without money.',
			isDone: trial.some((one) => one.paymentId !== null) || paid,
			href: open ? `/accept/tills/${open.till.slug}/trial` : '/accept/tills/new',
			act: 'Try a payment'
		},
		{
			title: 'Hear a notification',
			why: 'Processors tell by it what became of a payment. Ask for a test notification.',
			isDone: connections.some((row) => row.hookHeardAt !== null),
			href: here ? `/connect/connections/${here.id}/notifications` : '/connect/processors',
			act: 'See its notifications'
		}
	];
	return steps.some((one) => !one.isDone) ? steps : [];
}
