import { formatAmount } from '../core/money';
import { lineUpsOf } from './accept/lineups';
import { allTills } from './accept/tills';
import { allApplications, papersOf } from './connect/applications';
import { allConnections } from './connect/connections';
import { domainTable } from './connect/domains';
import { allOffline } from './connect/offline';
import { arrivalCounts, db, unmetSums } from './db';
import { neededOf } from './watch/needed';

/** One thing that needs a decision: the figure behind it and the way to settle it. */
export interface Need {
	readonly says: string;
	readonly figure: string;
	readonly href: string;
	readonly act: string;
	readonly urgent: boolean;
}

const KEY_DAYS = 365;
const DAY = 86_400_000;

/** Everything that needs a decision now, the urgent first. On a quiet day there is none. */
export async function needs(locale: string, now: number): Promise<Need[]> {
	const list: Need[] = [];
	const [connections, offline, tills, counts, unknown] = await Promise.all([
		allConnections(),
		allOffline(),
		allTills(),
		arrivalCounts(),
		db.actions.find({ state: 'unknown' })
	]);
	if (!connections.length)
		list.push({
			says: 'No processor is connected, so no card can be taken.',
			figure: '0 connections',
			href: '/connect/processors',
			act: 'Connect a processor',
			urgent: false
		});
	if (!offline.length)
		list.push({
			says: 'No offline method is there: payers cannot transfer to your own account.',
			figure: '0 offline methods',
			href: '/connect/offline/new',
			act: 'Add an offline method',
			urgent: false
		});
	if (!tills.length)
		list.push({
			says: 'There is no till: nobody can pay anywhere yet.',
			figure: '0 tills',
			href: '/accept/tills/new',
			act: 'Set up a till',
			urgent: false
		});
	// two connections of one processor are told apart by their mode
	const named = connections.map((row) => (row.mode === 'test' ? { ...row, name: `${row.name}, test,` } : row));
	for (const row of named) {
		const href = `/connect/connections/${row.id}`;
		if (!row.verified)
			list.push({
				says: `${row.name} does not accept its credentials any more.`,
				figure: row.mode,
				href,
				act: `See ${row.name}`,
				urgent: true
			});
		else if (row.failing)
			list.push({
				says: `${row.name} is failing; standbys step in where there are any.`,
				figure: row.mode,
				href,
				act: `See ${row.name}`,
				urgent: true
			});
		else if (row.paused)
			list.push({ says: `${row.name} is paused.`, figure: row.mode, href, act: `See ${row.name}`, urgent: false });
		if (row.keyMadeAt && now - row.keyMadeAt > KEY_DAYS * DAY)
			list.push({
				says: `${row.name}’s keys are due for rotation: made over ${KEY_DAYS} days ago.`,
				figure: `${Math.floor((now - row.keyMadeAt) / DAY)} days`,
				href: `${href}/keys`,
				act: 'Put new ones in place',
				urgent: false
			});
		if (!row.hookHeardAt)
			list.push({
				says: `No notification of ${row.name} has come yet.`,
				figure: 'none heard',
				href: `${href}/notifications`,
				act: 'Ask for a test notification',
				urgent: false
			});
		const { missing } = await neededOf(row);
		if (missing.length)
			list.push({
				says: `${row.name} does not tell of ${missing.join(', ')}, which what is in use relies on.`,
				figure: `${missing.length} notification${missing.length === 1 ? '' : 's'} missing`,
				href: `${href}/notifications`,
				act: 'Set them up',
				urgent: true
			});
		const differences = await db.abilityChanges.find({ connectionId: row.id, seenAt: null });
		if (differences.length)
			list.push({
				says: `What ${row.name} can do has changed: ${differences[0]!.says}`,
				figure: `${differences.length} difference${differences.length === 1 ? '' : 's'}`,
				href,
				act: `See ${row.name}`,
				urgent: differences.some((one) => one.says.includes('no longer'))
			});
	}
	const unread = new Map<string, string>();
	for (const card of await db.rateCards.find({ confirmedAt: null }, { order: [['validFrom', 'DESC']] }))
		if (!unread.has(card.connectionId)) unread.set(card.connectionId, card.validFrom);
	const unconfirmed = connections.filter((row) => unread.has(row.id) && row.mode === 'live');
	if (unconfirmed.length)
		list.push({
			says:
				unconfirmed.length === 1
					? `${unconfirmed[0]!.name}’s prices were read, and nobody has held them against the contract yet.`
					: `The prices of ${unconfirmed.map((row) => row.name).join(', ')} were read, and nobody has held them against the contracts yet.`,
			figure: `${unconfirmed.length} rate card${unconfirmed.length === 1 ? '' : 's'}`,
			href: `/connect/connections/${unconfirmed[0]!.id}/rates`,
			act: `Confirm ${unconfirmed[0]!.name}’s rate card`,
			urgent: false
		});
	for (const one of await allApplications())
		if (one.state === 'more papers wanted')
			list.push({
				says: `The application ${one.number} wants more papers: ${papersOf(one).join(', ')}.`,
				figure: one.state,
				href: `/connect/processors/${one.processor}#application`,
				act: 'See the application',
				urgent: true
			});
	for (const { domain, proofs, codes } of await domainTable())
		for (const one of [
			...proofs.filter((one) => one.state !== 'proven').map((one) => ({ ...one, what: 'wallet proof' })),
			...codes.filter((one) => one.state !== 'present').map((one) => ({ ...one, what: 'page code' }))
		].filter((one) => one.mode === 'live'))
			list.push({
				says: `The ${one.what} of ${one.name} ${one.state === 'failing' ? 'fails' : 'is missing'} on ${domain}.`,
				figure: domain,
				href: '/connect/domains',
				act: 'See the domain',
				urgent: one.state === 'failing'
			});
	for (const action of unknown) {
		const payment = await db.payments.one({ id: action.paymentId });
		if (payment)
			list.push({
				says: `The outcome of a ${action.act} for ${payment.reference} is not known; the processor is being asked.`,
				figure: formatAmount({ minor: action.minor, currency: payment.currency }, locale),
				href: `/takings/payments/${payment.id}`,
				act: `See ${payment.reference}`,
				urgent: true
			});
	}
	const stuck = counts.get('stuck') ?? 0;
	if (stuck)
		list.push({
			says: 'Notifications are stuck: they do not fit what is known here.',
			figure: `${stuck} arrival${stuck === 1 ? '' : 's'}`,
			href: '/watch?state=stuck',
			act: 'See what is stuck',
			urgent: true
		});
	for (const till of tills) {
		const href = `/accept/tills/${till.slug}`;
		const { draft, published } = await lineUpsOf(till.id);
		if (!published)
			list.push({
				says: `${till.name} has no published line-up: payers meet nothing there.`,
				figure: `${draft?.offers.length ?? 0} offers in draft`,
				href,
				act: `Open ${till.name}`,
				urgent: false
			});
		else if (draft)
			list.push({
				says: `${till.name} has a draft that is not published.`,
				figure: `draft beside version ${published.row.number}`,
				href,
				act: `Open ${till.name}`,
				urgent: false
			});
		for (const sum of await unmetSums(till.id, now - 7 * DAY))
			list.push({
				says:
					sum.kind === 'nothing offered'
						? `Payers met an empty checkout at ${till.name} this week.`
						: `Cards were not taken for their type at ${till.name} this week.`,
				figure: `${sum.count} × ${formatAmount({ minor: sum.minor, currency: sum.currency }, locale)} in all`,
				href,
				act: `Open ${till.name}`,
				urgent: sum.kind === 'nothing offered'
			});
	}
	const differing = await db.payments.find(
		{ stage: ['captured', 'settled', 'paid out', 'part refunded'] },
		{ order: [['id', 'DESC']], limit: 500 }
	);
	const wrong = differing.filter(
		(row) => row.expectedFee !== null && row.chargedFee !== null && row.expectedFee !== row.chargedFee
	);
	const sums = new Map<string, { count: number; minor: number }>();
	for (const row of wrong) {
		const sum = sums.get(row.feeCurrency!) ?? { count: 0, minor: 0 };
		sums.set(row.feeCurrency!, { count: sum.count + 1, minor: sum.minor + row.chargedFee! - row.expectedFee! });
	}
	for (const [currency, { count, minor }] of sums)
		list.push({
			says: `${count} of the last ${differing.length} payments were charged another fee than the rate card says.`,
			figure: `${formatAmount({ minor: Math.abs(minor), currency }, locale)} ${minor >= 0 ? 'over' : 'under'}`,
			href: '/takings',
			act: 'See the payments marked ≠',
			urgent: false
		});
	return list.sort((a, b) => Number(b.urgent) - Number(a.urgent));
}
