import { lastDayOfMonth, renewalMonths } from '../core/billing';
import { formatDay, formatMoment, inZone } from '../core/calendar';
import { counted } from '../core/counted';
import { findRate, formatAmount, round, unrounded } from '../core/money';
import { snapshot } from './accept/snapshot';
import { theBusiness } from './connect/business';
import { allEndpoints } from './hooks/endpoints';
import { timeNow } from './signals/clock';
import { openDisputes } from './takings/disputes';
import { awaitedPayments } from './watch/awaited';
import { feeStates } from './fees/view';
import { lineUpsOf, sayDifferences } from './accept/lineups';
import { allTills } from './accept/tills';
import { today } from './connect/business';
import { sending } from './messages';
import { allApplications, papersOf } from './connect/applications';
import { allConnections } from './connect/connections';
import { connectorOf } from './connectors';
import { domainTable } from './connect/domains';
import { allOffline } from './connect/offline';
import {
	arrivalCounts,
	billCounts,
	commonestUnmet,
	db,
	cardsEnding,
	debitsNotMade,
	openActions,
	openByAge,
	overpaidOrders,
	unmetSums,
	unplacedSums,
	unseenClashes,
	unseenContradictions
} from './db';
import { openProposals } from './ratecards';
import { neededOf } from './watch/needed';
import { watchRules } from './watch/rules';
import { clockOffset, databaseDamage, diskTrouble } from './watch/troubles';
import { lateMoney } from './takings/certain';

/** One thing that needs a decision: the figure behind it and the way to settle it. */
export interface Need {
	/** what it is about: no two needs share it */
	readonly id: string;
	readonly says: string;
	readonly figure: string;
	readonly href: string;
	readonly act: string;
	readonly urgent: boolean;
	/** what is at stake, where that is known */
	readonly sum?: { readonly minor: number; readonly currency: string };
}

const KEY_DAYS = 365;
/** So many days before they are due, keys are told of. */
const KEYS_SOON = 30;
/** Where nobody tells until when a dispute can be answered, it is not waited for after so long. */
const UNTOLD = 30 * 86_400_000;
/** So many of one kind are told one by one. */
const TOLD = 20;
/** So many of a kind are alerts: one that more than these came after would end as if it were settled. */
export const MOST_ALERTS = 1_000;
const DAY = 86_400_000;

/** An offset in the unit that one sets a clock by. */
function sayOffset(seconds: number): string {
	const minutes = Math.round(Math.abs(seconds) / 60);
	const much = minutes >= 120 ? `${Math.round(minutes / 60)} hours` : `${minutes} minutes`;
	return `${much} ${seconds > 0 ? 'fast' : 'slow'}`;
}

/** Where the payer of a till who most often met nothing in a currency is asked for again. */
async function askWhoMetNothing(till: string, tillId: string, currency: string, since: number): Promise<string> {
	const met = await commonestUnmet(tillId, currency, since);
	if (!met) return till;
	const { country } = db.unmet.json.context(met.context) as { country?: string };
	const query = new URLSearchParams({ currency, amount: String(met.minor), minor: 'yes', country: country ?? '' });
	return `${till}/ask?${query}`;
}

/**
 * Everything that needs a decision now, the urgent first. On a quiet day there is none.
 * @param most so many of a kind are told one by one; that there are more is told in one line
 */
export async function needs(locale: string, now: number, most = TOLD): Promise<Need[]> {
	const list: Need[] = [];
	const [connections, offline, tills, counts] = await Promise.all([
		allConnections(),
		allOffline(),
		allTills(),
		arrivalCounts()
	]);
	const damage = databaseDamage();
	if (damage.length)
		list.push({
			id: 'damaged database',
			says: `The database is damaged: ${damage[0]}. Stop the server, keep a copy of its folder, and put the latest backup in its place.`,
			figure: `${damage.length} place${damage.length === 1 ? '' : 's'}`,
			href: '/watch',
			act: 'See what comes in',
			urgent: true
		});
	const free = await diskTrouble();
	if (free !== undefined)
		list.push({
			id: 'full disk',
			says: 'The disk of the database is nearly full. Once it is full nothing can be kept: notifications are refused, and processors send them again later. Make room.',
			figure: `${Math.floor(free / 1_000_000).toLocaleString(locale)} MB free`,
			href: '/watch',
			act: 'See what comes in',
			urgent: true
		});
	const clock = clockOffset();
	if (clock)
		list.push({
			id: 'wrong clock',
			says: `This machine’s clock is ${sayOffset(clock.seconds)}: notifications with right signatures are refused for their time. Set the clock; what they told of is asked after meanwhile.`,
			figure: `${clock.refused} refused`,
			href: '/watch',
			act: 'See what comes in',
			urgent: true
		});
	if (!connections.length)
		list.push({
			id: 'no connection',
			says: 'No processor is connected, so no card can be taken.',
			figure: '0 connections',
			href: '/connect/processors',
			act: 'Connect a processor',
			urgent: false
		});
	if (!offline.length)
		list.push({
			id: 'no offline method',
			says: 'No offline method is there: payers cannot transfer to your own account.',
			figure: '0 offline methods',
			href: '/connect/offline/new',
			act: 'Add an offline method',
			urgent: false
		});
	if (!tills.length)
		list.push({
			id: 'no till',
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
				id: `invalid ${row.id}`,
				says: `${row.name} does not accept its credentials any more.`,
				figure: '1 connection',
				href,
				act: `See ${row.name}`,
				urgent: true
			});
		else if (row.failing)
			list.push({
				id: `failing ${row.id}`,
				says: `${row.name} is failing; standbys step in where there are any.`,
				figure: '1 connection',
				href,
				act: `See ${row.name}`,
				urgent: true
			});
		else if (row.paused)
			list.push({
				id: `paused ${row.id}`,
				says: `${row.name} is paused.`,
				figure: '1 connection',
				href,
				act: `See ${row.name}`,
				urgent: false
			});
		const keyDays = row.keyMadeAt ? Math.floor((now - row.keyMadeAt) / DAY) : 0;
		if (row.keyMadeAt && keyDays > KEY_DAYS - KEYS_SOON)
			list.push({
				id: `old keys ${row.id}`,
				says:
					keyDays > KEY_DAYS
						? `${row.name}’s keys are due for rotation: made over ${KEY_DAYS} days ago.`
						: `${row.name}’s keys are due for rotation in ${counted(KEY_DAYS - keyDays + 1, 'day', locale)}.`,
				figure: `${keyDays} days`,
				href: `${href}/keys`,
				act: 'Put new ones in place',
				urgent: false
			});
		if (!row.hookHeardAt)
			list.push({
				id: `unheard ${row.id}`,
				says: `No notification of ${row.name} has come yet.`,
				figure: '0 heard',
				href: `${href}/notifications`,
				act: 'Ask for a test notification',
				urgent: false
			});
		const { missing } = await neededOf(row);
		if (missing.length)
			list.push({
				id: `not subscribed ${row.id}`,
				says: `${row.name} does not tell of ${missing.join(', ')}, which what is in use relies on.`,
				figure: `${missing.length} notification${missing.length === 1 ? '' : 's'} missing`,
				href: `${href}/notifications`,
				act: 'Set them up',
				urgent: true
			});
		const differences = await db.abilityChanges.find({ connectionId: row.id, seenAt: null });
		if (differences.length)
			list.push({
				id: `changed ${row.id}`,
				says: `What ${row.name} can do has changed: ${differences[0]!.says}`,
				figure: `${differences.length} difference${differences.length === 1 ? '' : 's'}`,
				href,
				act: `See ${row.name}`,
				urgent: differences.some((one) => one.says.includes('no longer'))
			});
	}
	const proposed = new Map((await openProposals()).map((one) => [one.connectionId, one.validFrom]));
	const waiting = connections.filter((row) => proposed.has(row.id) && row.mode === 'live');
	if (waiting.length)
		list.push({
			id: 'proposals',
			says:
				waiting.length === 1
					? `${waiting[0]!.name} says what it charges, and nobody has confirmed it: nothing is expected by it yet.`
					: `${waiting.length} processors say what they charge, and nobody has confirmed it: nothing is expected by it yet.`,
			figure: `${waiting.length} rate card${waiting.length === 1 ? '' : 's'}`,
			href: `/connect/connections/${waiting[0]!.id}/rates`,
			act: `Confirm ${waiting[0]!.name}’s rate card`,
			urgent: false
		});
	for (const one of await allApplications())
		if (one.state === 'more papers wanted')
			list.push({
				id: `papers ${one.id}`,
				says: `The application ${one.number} at ${connectorOf(one.processor).name} wants more papers: ${papersOf(one).join(', ')}.`,
				figure: `${papersOf(one).length} paper${papersOf(one).length === 1 ? '' : 's'}`,
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
				id: `${one.what} ${domain} ${one.connectionId}`,
				says: `The ${one.what} of ${one.name} ${one.state === 'failing' ? 'fails' : 'is missing'} on ${domain}: payers there are not offered it.`,
				figure: '1 domain',
				href: '/connect/domains',
				act: 'See the domain',
				urgent: one.state === 'failing'
			});
	list.push(...(await moneyNeeds(locale, most)));
	const stuck = counts.get('stuck') ?? 0;
	if (stuck)
		list.push({
			id: 'stuck arrivals',
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
				id: `unpublished ${till.id}`,
				says: `${till.name} has no published line-up: payers meet nothing there.`,
				figure: `${draft?.offers.length ?? 0} offers in draft`,
				href,
				act: `Open ${till.name}`,
				urgent: false
			});
		else if (draft) {
			const changes = await sayDifferences(published.offers, draft.offers, locale, till);
			list.push({
				id: `draft ${till.id}`,
				says: `${till.name} has a draft that is not published.`,
				figure: `${changes.length} change${changes.length === 1 ? '' : 's'}`,
				href,
				act: `Open ${till.name}`,
				urgent: false
			});
		}
		for (const sum of await unmetSums(till.id, now - 7 * DAY))
			list.push({
				id: `${sum.kind} ${till.id} ${sum.currency}`,
				says:
					sum.kind === 'nothing offered'
						? `Payers met an empty checkout at ${till.name} this week.`
						: `Cards were not taken for their type at ${till.name} this week.`,
				figure: `${sum.count} payer${sum.count === 1 ? '' : 's'}; together ${formatAmount({ minor: sum.minor, currency: sum.currency }, locale)}`,
				href:
					sum.kind === 'nothing offered' ? await askWhoMetNothing(href, till.id, sum.currency, now - 7 * DAY) : href,
				act: sum.kind === 'nothing offered' ? 'See the least change' : `Open ${till.name}`,
				urgent: sum.kind === 'nothing offered',
				sum: { minor: sum.minor, currency: sum.currency }
			});
	}
	const { discrepancyFrom } = await watchRules();
	for (const one of (await feeStates(locale, discrepancyFrom, most > TOLD)).largest)
		list.push({
			id: `discrepancy ${one.id}`,
			says: `Charged otherwise than agreed. ${one.says}.`,
			figure: `${one.sum}, ${one.counted} since ${one.since}`,
			href: `/watch/discrepancies/${one.id}`,
			act: one.minor > 0 ? 'See the letter' : one.isOfAccount ? 'See the charges' : 'See the payments',
			urgent: one.isLarge,
			sum: { minor: Math.abs(one.minor), currency: one.currency }
		});
	list.push(...(await billNeeds(locale)), ...(await watchNeeds(locale, now, most)));
	return inOrder(list);
}

/** The urgent first, then by what is at stake, in the home currency; what has no sum comes after what has one. */
async function inOrder(list: readonly Need[]): Promise<Need[]> {
	const { business, states } = await snapshot();
	const day = inZone(new Date(timeNow()), business.timeZone).day;
	const worth = new Map(
		list.map((one) => {
			if (!one.sum) return [one.id, 0];
			const { minor, currency } = one.sum;
			if (currency === business.homeCurrency) return [one.id, minor];
			const rate = findRate(states.rates, currency, business.homeCurrency, day);
			return [one.id, rate ? Number(round(unrounded(minor, rate), 'half-even')) : 0];
		})
	);
	return [...list].sort((a, b) => Number(b.urgent) - Number(a.urgent) || worth.get(b.id)! - worth.get(a.id)!);
}

/** What hooks lack: connections that fell silent, gaps, answers that do not come, endpoints that nothing reaches. */
async function watchNeeds(locale: string, now: number, most: number): Promise<Need[]> {
	const { timeZone } = await theBusiness();
	const when = (at: number) => formatMoment(at, locale, timeZone);
	const [silences, awaited, endpoints, rows] = await Promise.all([
		db.silences.find({ askedAt: null, isDismissed: 0 }, { order: [['fromAt', 'DESC']], limit: most + 1 }),
		awaitedPayments(now),
		allEndpoints(),
		allConnections()
	]);
	const nameOf = new Map(rows.map((row) => [row.id, row.name]));
	const list: Need[] = silences
		.slice(0, most)
		.filter((one) => nameOf.has(one.connectionId))
		.map((one) => ({
			id: `silence ${one.id}`,
			says:
				one.toAt === null
					? `${nameOf.get(one.connectionId)} has told nothing since ${when(one.fromAt)}, though about ${Math.round(one.expected)} payments should have been told of.`
					: `${nameOf.get(one.connectionId)} told nothing from ${when(one.fromAt)} to ${when(one.toAt)}. What it missed is not asked for yet.`,
			figure: `${Math.max(1, Math.round(((one.toAt ?? now) - one.fromAt) / 3_600_000))} h`,
			href: '/watch/pulse',
			act: 'Fill the gap',
			urgent: one.toAt === null
		}));
	list.push(...moreOf(silences, most, 'silences', 'gaps in what connections told', '/watch/pulse'));
	const disputes = (await openDisputes())
		.filter((one) => one.answeredAt === null && (one.answerBy ?? one.openedAt + UNTOLD) >= now)
		.sort((a, b) => (a.answerBy ?? Infinity) - (b.answerBy ?? Infinity) || b.minor - a.minor);
	if (disputes.length > most)
		list.push({
			id: 'more disputes',
			says: `${(disputes.length - most).toLocaleString(locale)} more payments are disputed, with more time to answer.`,
			figure: counted(disputes.length, 'dispute', locale),
			href: '/takings/disputes',
			act: 'See all of them',
			urgent: false
		});
	for (const one of disputes.slice(0, most)) {
		const days = one.answerBy === null ? undefined : Math.floor((one.answerBy - now) / DAY);
		list.push({
			id: `dispute ${one.paymentId}`,
			says: `${one.payer || 'A payer'} disputes ${one.reference || 'a payment'}${one.reason ? `: ${one.reason}` : ''}.${one.answerBy === null ? '' : ` It can be answered until ${when(one.answerBy)}.`}`,
			figure: formatAmount({ minor: one.minor, currency: one.currency }, locale),
			href: `/takings/disputes/${one.paymentId}`,
			act: 'Answer it',
			urgent: days !== undefined && days < 4,
			sum: { minor: one.minor, currency: one.currency }
		});
	}
	for (const one of await lateMoney(now))
		list.push({
			id: `late money ${one.currency}`,
			says: `${one.count === 1 ? 'A payment in' : `${one.count.toLocaleString(locale)} payments in`} ${one.currency} should have been paid out by ${one.carriers.join(', ')} two bank days ago or more, and no payout was told.`,
			figure: formatAmount({ minor: one.minor, currency: one.currency }, locale),
			href: '/takings/awaited',
			act: 'See what is late',
			urgent: false,
			sum: { minor: one.minor, currency: one.currency }
		});
	if (awaited.inAll)
		list.push({
			id: 'awaited answers',
			says: `${awaited.inAll === 1 ? 'A payment waits' : `${awaited.inAll.toLocaleString(locale)} payments wait`} longer than 99 of a hundred for the word of the processor.`,
			figure: counted(awaited.inAll, 'payment', locale),
			href: '/watch/pulse',
			act: 'Ask after them',
			urgent: false
		});
	for (const one of endpoints)
		if (one.failingSince !== null || one.state === 'off')
			list.push({
				id: `endpoint ${one.id}`,
				says:
					one.state === 'on'
						? `Nothing reaches ${one.description || one.address} since ${when(one.failingSince!)}. It is tried for three days, then paused.`
						: `${one.description || one.address} is ${one.state === 'off' ? 'switched off' : 'paused'}: ${one.says}`,
				figure: '1 endpoint',
				href: `/watch/endpoints/${one.id}`,
				act: 'See its log',
				urgent: one.state !== 'on'
			});
	return list;
}

/** Money that came twice, whose outcome is not known, or about which two things were told. */
async function moneyNeeds(locale: string, most: number): Promise<Need[]> {
	const [over, actions, contradictions, clashes, accounts] = await Promise.all([
		overpaidOrders(most + 1),
		openActions(most + 1),
		unseenContradictions(most + 1),
		unseenClashes(most + 1),
		db.accountClashes.find({ seenAt: null }, { order: [['id', 'DESC']], limit: most + 1 })
	]);
	const called = (one: { reference: string; processorId?: string | null }) =>
		one.reference || one.processorId || 'a payment';
	const sum = (minor: number, currency: string) => formatAmount({ minor, currency }, locale);
	return [
		...over.slice(0, most).map((one) => ({
			id: `overpaid ${one.id}`,
			says:
				one.payments > 1
					? `${one.reference} was paid ${one.payments === 2 ? 'twice' : `${one.payments} times`}: more came than was asked.`
					: `More came for ${one.reference} than was asked.`,
			figure: sum(one.over, one.currency),
			href: `/takings/payments/${one.paymentId}`,
			act: `Refund ${sum(one.over, one.currency)}`,
			urgent: true,
			sum: { minor: one.over, currency: one.currency }
		})),
		...actions.slice(0, most).map((one) => ({
			id: `unknown ${one.key}`,
			says:
				one.state === 'stuck'
					? `The outcome of a ${one.act} for ${called(one)} could not be learned. ${one.says}`
					: `The outcome of a ${one.act} for ${called(one)} is not known; the processor is being asked.`,
			figure: sum(one.minor, one.currency),
			href: `/takings/payments/${one.paymentId}`,
			act: `See ${called(one)}`,
			urgent: true
		})),
		...contradictions.slice(0, most).map((one) => ({
			id: `contradiction ${one.id}`,
			says: `What was told of ${called(one)} does not fit together: it was ${one.contradiction.replace('; ', ', and ')}.`,
			figure: sum(one.taken, one.currency),
			href: `/takings/payments/${one.id}`,
			act: `See ${called(one)}`,
			urgent: true
		})),
		...clashes.slice(0, most).map((one) => ({
			id: `clash ${one.id}`,
			says: `“${one.kind}” of ${called(one)} was told twice, with ${sum(one.known, one.currency)} and with ${sum(one.told, one.currency)}.`,
			figure: sum(Math.abs(one.told - one.known), one.currency),
			href: `/takings/payments/${one.paymentId}`,
			act: `See ${called(one)}`,
			urgent: true
		})),
		...accounts.slice(0, most).map((one) => ({
			id: `account clash ${one.id}`,
			says: `${connectorOf(one.processor).name} told the ${one.kind} ${one.object} twice, with ${sum(one.knownMinor, one.knownCurrency)} and with ${sum(one.toldMinor, one.toldCurrency)}.`,
			figure: sum(one.toldMinor, one.toldCurrency),
			href: '/connect/files#told-twice',
			act: 'See what was told',
			urgent: true
		})),
		...moreOf(over, most, 'overpaid', 'orders to which more came than was asked', '/takings?trouble=overpaid'),
		...moreOf(actions, most, 'unknown', 'acts whose outcome is not known', '/takings?trouble=unknown'),
		...moreOf(
			contradictions,
			most,
			'contradictions',
			'payments of which what was told does not fit together',
			'/takings?trouble=contradiction'
		),
		...moreOf(
			clashes,
			most,
			'clashes',
			'payments of which one thing was told twice',
			`/takings/payments/${clashes[0]?.paymentId}`,
			'Begin with the first'
		),
		...moreOf(accounts, most, 'account clashes', 'things that processors told twice', '/connect/files#told-twice')
	];
}

/** Says that there are more of a kind than are told one by one. @param found one more than are told, where there are more */
const moreOf = (
	found: readonly unknown[],
	most: number,
	id: string,
	what: string,
	href: string,
	act = 'See all of them'
): Need[] =>
	found.length <= most
		? []
		: [
				{
					id: `more ${id}`,
					says: `There are more than ${most} ${what}: ${most} of them are told here, the others as soon as these are settled.`,
					figure: `over ${most}`,
					href,
					act,
					urgent: true
				}
			];

/** What billing waits for: approvals, messages that did not go out, money that nobody claims, what is overdue. */
async function billNeeds(locale: string): Promise<Need[]> {
	const day = await today();
	const [counts, unplaced, ages, how] = await Promise.all([billCounts(day), unplacedSums(), openByAge(day), sending()]);
	const list: Need[] = [];
	if (counts.asked)
		list.push({
			id: 'invoices to approve',
			says: `${counts.asked === 1 ? 'An invoice waits' : `${counts.asked} invoices wait`} for your approval. Nothing is sent before it.`,
			figure: `${counts.asked} invoice${counts.asked === 1 ? '' : 's'}`,
			href: '/bill/invoices?show=asked',
			act: counts.asked === 1 ? 'Look at it' : 'Look at them',
			urgent: false
		});
	if (counts.unsent)
		list.push({
			id: 'unsent messages',
			says: `${counts.unsent === 1 ? 'A message' : `${counts.unsent} messages`} could not be sent, or nobody knows whether ${counts.unsent === 1 ? 'it' : 'they'} arrived.`,
			figure: `${counts.unsent} message${counts.unsent === 1 ? '' : 's'}`,
			href: '/bill/messages',
			act: 'See the messages',
			urgent: false
		});
	if (counts.waiting && !how.form.host)
		list.push({
			id: 'no mail server',
			says: 'Messages wait to be sent, and no mail server is set up.',
			figure: `${counts.waiting} waiting`,
			href: '/bill/settings#mail',
			act: 'Set up mail',
			urgent: true
		});
	const months = renewalMonths(day);
	const soon = await cardsEnding(months, 1);
	if (soon.count)
		list.push({
			id: 'cards about to end',
			says: `${soon.count === 1 ? 'A stored card ends' : `${soon.count} stored cards end`} by ${formatDay(lastDayOfMonth(months.to), locale)}. ${soon.count === 1 ? 'Its payer is' : 'Their payers are'} asked once to keep a new one.`,
			figure: `${soon.count} card${soon.count === 1 ? '' : 's'}`,
			href: soon.count === 1 ? `/bill/payers/${soon.first[0]!.payerId}` : '/bill/payers#cards-ending',
			act: soon.count === 1 ? 'See the payer' : 'See the payers',
			urgent: false
		});
	for (const one of await debitsNotMade(timeNow()))
		list.push({
			id: `debits not made ${one.currency}`,
			says: `${one.count === 1 ? 'A bank debit that was announced was' : `${one.count} bank debits that were announced were`} not made, and ${one.count === 1 ? 'its invoice is' : 'their invoices are'} still open.`,
			figure: formatAmount({ minor: one.minor, currency: one.currency }, locale),
			href: one.count === 1 ? `/bill/invoices/${one.invoiceId}` : '/bill/invoices?show=undebited',
			act: one.count === 1 ? 'See the invoice' : 'See the invoices',
			urgent: false,
			sum: { minor: one.minor, currency: one.currency }
		});
	for (const one of unplaced.filter((sum) => sum.minor > sum.credit))
		list.push({
			id: `unplaced ${one.currency}`,
			says: `Money in ${one.currency} came that no invoice claims.`,
			figure: formatAmount({ minor: one.minor - one.credit, currency: one.currency }, locale),
			href: '/takings/unplaced',
			act: 'Place it',
			urgent: false,
			sum: { minor: one.minor - one.credit, currency: one.currency }
		});
	for (const currency of [...new Set(ages.filter((one) => one.age > 0).map((one) => one.currency))]) {
		const late = ages.filter((one) => one.currency === currency && one.age > 0);
		const count = late.reduce((all, one) => all + one.count, 0);
		list.push({
			id: `overdue ${currency}`,
			says: `${count === 1 ? 'One sum' : `${count} sums`} in ${currency} ${count === 1 ? 'is' : 'are'} overdue.`,
			figure: formatAmount({ minor: late.reduce((all, one) => all + one.open, 0), currency }, locale),
			href: '/bill?show=overdue',
			act: 'See what is overdue',
			urgent: false,
			sum: { minor: late.reduce((all, one) => all + one.open, 0), currency }
		});
	}
	return list;
}
