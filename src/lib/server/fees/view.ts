import { formatDay, formatMoment } from '../../core/calendar';
import { counted } from '../../core/counted';
import {
	isAccountCause,
	kindAt,
	lineFor,
	percent,
	sayCause,
	sayLine,
	whyCause,
	type DiscrepancyState,
	type FeeCause,
	type PastKind
} from '../../core/fees';
import { methodName } from '../../core/lineup';
import { findRate, formatAmount, formatNumber, plainAmount, round, unrounded } from '../../core/money';
import type { Verdict, VerdictPart, Working } from '../../core/workings';
import { audit } from '../access';
import { snapshot } from '../accept/snapshot';
import { theBusiness } from '../connect/business';
import {
	chargeEvidenceOf,
	countOfKinds,
	db,
	evidenceOf,
	isAnythingChecked,
	kindsOfDiscrepancy,
	write,
	type DiscrepancyRow,
	type EvidenceRow
} from '../db';
import { contractsOf } from '../ratecards';
import { timeNow } from '../signals/clock';
import { tell } from '../signals/live';
import { noteOn, tellClosed } from './run';
import { notChecked } from './unpriced';
import { schemeName } from './words';

/** What can be done with a discrepancy, by where it stands. */
const ACTS: Readonly<Record<DiscrepancyState, readonly DiscrepancyState[]>> = {
	open: ['sent', 'settled', 'accepted'],
	sent: ['agreed', 'settled', 'accepted', 'open'],
	agreed: ['settled', 'accepted', 'open'],
	settled: ['open'],
	accepted: ['open']
};
export const ACT_NAMES: Readonly<Record<DiscrepancyState, string>> = {
	open: 'Open it again',
	sent: 'It was sent to the processor',
	agreed: 'The processor agreed',
	settled: 'It is settled',
	accepted: 'Accept it as it is'
};
/** So many large ones are told one by one. */
const TOLD = 20;
const CLOSED: readonly string[] = ['settled', 'accepted'];

async function marginOf(row: DiscrepancyRow): Promise<number | undefined> {
	if (row.cause !== 'conversion') return undefined;
	return (await contractsOf(row.connectionId)).find((one) => one.id === row.rateCardId)?.body.conversion;
}
/** How many payments, or charges of the account. */
const countOf = (row: DiscrepancyRow, locale: string) =>
	counted(row.count, isAccountCause(row.cause) ? 'charge' : 'payment', locale);
/** What is behind a discrepancy, page by page. */
export const evidenceFor = (
	row: DiscrepancyRow,
	after: { day: string; id: number } | undefined,
	limit: number
): Promise<EvidenceRow[]> => (isAccountCause(row.cause) ? chargeEvidenceOf : evidenceOf)(row.id, after, limit);
const named = (row: DiscrepancyRow) => ({ cause: row.cause as FeeCause, parameter: row.parameter });
/** What is still to be had back, in minor units: below zero where too little was charged. */
export const remaining = (row: Pick<DiscrepancyRow, 'over' | 'under' | 'corrected'>): number =>
	row.over - row.under - row.corrected;

async function show(row: DiscrepancyRow, locale: string) {
	const [connection, kinds, margin] = await Promise.all([
		db.connections.one({ id: row.connectionId }),
		kindsOfDiscrepancy(row.id),
		marginOf(row)
	]);
	const rows = new Map(
		(kinds.length ? await db.paymentKinds.find({ id: kinds.map((one) => one.kindId) }) : []).map((one) => [one.id, one])
	);
	const say = (minor: number) => formatAmount({ minor, currency: row.currency }, locale);
	const of = (pick: 'scheme' | 'funding' | 'issuer' | 'method' | 'currency') => [
		...new Set(kinds.map(({ kindId }) => rows.get(kindId)?.[pick] ?? '').filter((one) => one && one !== 'unknown'))
	];
	const schemes = of('scheme').map((one) => schemeName(one));
	return {
		id: row.id,
		connection: connection?.name ?? '',
		connectionId: row.connectionId,
		cause: sayCause(named(row), locale, schemeName, margin),
		why: whyCause(named(row)),
		kinds: [
			of('method')
				.map((one) => methodName(one as never))
				.join(', '),
			schemes.join(', '),
			of('funding').join(', '),
			of('issuer').length ? `from ${of('issuer').join(', ')}` : '',
			of('currency').some((one) => one !== row.currency) ? `in ${of('currency').join(', ')}` : ''
		].filter(Boolean),
		first: formatDay(row.firstDay, locale),
		last: formatDay(row.lastDay, locale),
		count: row.count,
		counted: countOf(row, locale),
		isOfAccount: isAccountCause(row.cause),
		over: row.over ? say(row.over) : '',
		found: say(row.over),
		under: row.under ? say(row.under) : '',
		corrected: row.corrected ? say(row.corrected) : '',
		remaining: say(remaining(row)),
		state: row.state,
		currency: row.currency,
		isClosed: CLOSED.includes(row.state)
	};
}
export type ShownDiscrepancy = Awaited<ReturnType<typeof show>>;

/** All discrepancies, the largest open first, then the closed ones; and what they come to. */
export async function listDiscrepancies(locale: string): Promise<{
	rows: ShownDiscrepancy[];
	verdict: Verdict;
	unpriced: Awaited<ReturnType<typeof notChecked>>;
}> {
	const found = await db.discrepancies.find({});
	found.sort(
		(a, b) =>
			Number(CLOSED.includes(a.state)) - Number(CLOSED.includes(b.state)) ||
			Math.abs(remaining(b)) - Math.abs(remaining(a)) ||
			a.id - b.id
	);
	const rows = await Promise.all(found.map((row) => show(row, locale)));
	return { rows, verdict: await verdictOf(found, locale), unpriced: await notChecked(locale) };
}

async function verdictOf(found: readonly DiscrepancyRow[], locale: string): Promise<Verdict> {
	const open = found.filter((row) => !CLOSED.includes(row.state));
	const sums = new Map<string, { over: number; under: number; payments: number }>();
	for (const row of open) {
		const sum = sums.get(row.currency) ?? { over: 0, under: 0, payments: 0 };
		const left = remaining(row);
		sums.set(row.currency, {
			over: sum.over + Math.max(0, left),
			under: sum.under + Math.max(0, -left),
			payments: sum.payments + row.count
		});
	}
	if (!sums.size && found.length) return [{ text: 'Nothing is open: every discrepancy was settled or accepted.' }];
	if (!sums.size)
		return (await isAnythingChecked())
			? [{ text: 'Every fee that a contract covers is as it was promised.' }]
			: [
					{ text: 'No verdict: no payment was held against a contract yet. ' },
					{ text: 'Confirm the rate card of a connection', href: '/connect' },
					{ text: ' and ' },
					{ text: 'import a settlement file', href: '/connect/files' },
					{ text: '.' }
				];
	const largest = open.reduce((best, row) => (Math.abs(remaining(row)) > Math.abs(remaining(best)) ? row : best));
	const connection = await db.connections.one({ id: largest.connectionId });
	const parts: VerdictPart[] = [];
	for (const [currency, sum] of sums) {
		const say = (minor: number) => formatAmount({ minor, currency }, locale);
		const working: Working = {
			title: `Charged otherwise, in ${currency}`,
			steps: [
				...open
					.filter((row) => row.currency === currency)
					.map((row) => ({
						title: sayCause(named(row), locale, schemeName),
						sub: countOf(row, locale),
						sum: say(remaining(row))
					})),
				{ title: 'In all', sum: say(sum.over - sum.under), total: true }
			]
		};
		parts.push(
			{ text: parts.length ? ' And ' : 'You were charged ' },
			{ text: say(sum.over), working, ...(sum.over ? { tone: 'clay' as const } : {}) },
			{ text: ` too much${sum.under ? ` and ${say(sum.under)} too little` : ''}.` }
		);
	}
	parts.push({ text: ' ' });
	parts.push({
		text: `Most of it: ${connection?.name ?? ''}, “${sayCause(named(largest), locale, schemeName, await marginOf(largest))}”, since ${formatDay(largest.firstDay, locale)}.`,
		href: `/watch/discrepancies/${largest.id}`
	});
	return parts;
}

/** One discrepancy with the payments behind it, page by page, what was done with it, and what can be done. */
export async function readDiscrepancy(id: number, locale: string, after?: { day: string; id: number }) {
	const row = Number.isSafeInteger(id) ? await db.discrepancies.one({ id }) : undefined;
	if (!row) return undefined;
	const PAGE = 50;
	const [shown, notes, evidence, business, kinds] = await Promise.all([
		show(row, locale),
		db.discrepancyNotes.find({ discrepancyId: id }, { order: [['id', 'DESC']] }),
		evidenceFor(row, after, PAGE + 1),
		theBusiness(),
		kindsOfDiscrepancy(id)
	]);
	const lines = await linesOf(row, kinds, locale);
	const all = await countOfKinds(
		row.connectionId,
		kinds.map((one) => one.kindId),
		row.firstDay,
		row.lastDay
	);
	const say = (minor: number, currency = row.currency) => formatNumber({ minor, currency }, locale);
	const page = evidence.slice(0, PAGE);
	const last = page.at(-1);
	return {
		...shown,
		/** payments of these kinds in these days, those charged rightly among them */
		ofAll: all,
		lines,
		notes: notes.map((one) => ({
			id: one.id,
			when: formatMoment(one.at, locale, business.timeZone),
			by: one.byUser,
			act: one.act,
			text: one.act === 'corrected' ? sayCorrected(one.text, row.currency, locale) : one.text
		})),
		acts: ACTS[row.state as DiscrepancyState].map((state) => ({ state, name: ACT_NAMES[state] })),
		payments: page.map((one) => ({
			place: one.place,
			id: one.paymentId,
			processorId: one.processorId,
			day: formatDay(one.day, locale),
			amount: one.taken ? formatAmount({ minor: one.taken, currency: one.currency }, locale) : '',
			card: [schemeName(one.scheme), one.funding, one.issuer].filter((part) => part && part !== 'unknown').join(', '),
			expected: say(one.expected),
			charged: say(one.charged),
			difference: say(one.charged - one.expected),
			corrected: one.corrected ? say(one.corrected) : ''
		})),
		next: evidence.length > PAGE && last ? `${last.day}_${last.place}` : ''
	};
}
/** The line of the contract that was agreed for these payments, and the one that was charged in its place. */
async function linesOf(row: DiscrepancyRow, kinds: readonly { kindId: number }[], locale: string) {
	if (row.cause !== 'another line' || !kinds.length) return undefined;
	const [connection, contracts, past] = await Promise.all([
		db.connections.one({ id: row.connectionId }),
		contractsOf(row.connectionId),
		db.paymentKinds.one({ id: kinds[0]!.kindId })
	]);
	const card = contracts.find((one) => one.id === row.rateCardId)?.body;
	if (!card || !connection || !past) return undefined;
	const kind = kindAt(past as unknown as PastKind, card, connection.accountCountry);
	const [name = '', value = ''] = row.parameter.split(' ');
	const say = (as: typeof kind): string => {
		const choice = lineFor(card, as);
		if (choice.found !== 'one') return '';
		const { percentage, fixed } = choice.line;
		return `“${sayLine(choice.line)}”, ${percent(percentage, locale)}${fixed ? ` + ${formatNumber({ minor: fixed, currency: card.settlement }, locale)}` : ''}`;
	};
	const [agreed, charged] = [say(kind), say({ ...kind, [name]: value })];
	return agreed && charged && agreed !== charged ? { agreed, charged } : undefined;
}
const sayCorrected = (text: string, currency: string, locale: string): string => {
	const [done, of] = text.split(' of ').map(Number) as [number, number];
	return `${formatAmount({ minor: done, currency }, locale)} of ${formatAmount({ minor: of, currency }, locale)} came back.`;
};

/** Moves a discrepancy on, or writes a note; what was done and by whom is kept. @returns what is wrong, or what was done */
export async function workOn(
	id: number,
	asked: { readonly state?: string; readonly from?: string; readonly text: string },
	by: string
): Promise<{ problem: string } | { says: string }> {
	const text = asked.text.trim().slice(0, 2_000);
	const answer = await write(async (tx): Promise<{ problem: string } | { says: string }> => {
		const row = await db.discrepancies.one({ id }, tx);
		if (!row) return { problem: 'There is no such discrepancy.' };
		if (!asked.state) {
			if (!text) return { problem: 'Write something to keep.' };
			await noteOn(id, by, 'note', text, tx);
			return { says: 'The note is kept.' };
		}
		if (asked.from && asked.from !== row.state)
			return { problem: `Somebody else moved it meanwhile: it is ${row.state} now. Look at it again.` };
		const to = asked.state as DiscrepancyState;
		if (!ACTS[row.state as DiscrepancyState].includes(to))
			return { problem: `From ${row.state} it cannot become ${to}.` };
		await db.discrepancies.update({ id }, { state: to, stateAt: timeNow() }, tx);
		await noteOn(id, by, to, text, tx);
		if (to === 'settled' || to === 'accepted') await tellClosed(id, tx);
		await audit(
			{
				by,
				kind: 'connection',
				id: row.connectionId,
				name: sayCause(named(row), 'en-GB', schemeName),
				act: `discrepancy ${to}`
			},
			tx
		);
		return { says: `It is ${to} now.` };
	});
	tell('fees');
	return answer;
}

/** The payments behind a discrepancy as rows of a file. */
export async function* evidenceRows(id: number): AsyncGenerator<Record<string, string>[]> {
	let after: { day: string; id: number } | undefined;
	const row = await db.discrepancies.one({ id });
	if (!row) return;
	for (;;) {
		const rows: EvidenceRow[] = await evidenceFor(row, after, 1_000);
		yield rows.map((one) => {
			const plain = (minor: number, currency = one.feeCurrency) => plainAmount({ minor, currency });
			return {
				payment: one.processorId,
				day: one.day,
				method: one.method,
				scheme: one.scheme,
				funding: one.funding,
				issuer: one.issuer,
				currency: one.currency,
				amount: plain(one.taken, one.currency),
				refunded: plain(one.refunded, one.currency),
				fee_currency: one.feeCurrency,
				expected: plain(one.expected),
				charged: plain(one.charged),
				difference: plain(one.charged - one.expected),
				corrected: plain(one.corrected),
				reference: one.reference
			};
		});
		const last = rows.at(-1);
		if (rows.length < 1_000 || !last) return;
		after = { day: last.day, id: last.place };
	}
}
export const EVIDENCE_COLUMNS =
	'payment,day,method,scheme,funding,issuer,currency,amount,refunded,fee_currency,expected,charged,difference,corrected,reference'.split(
		','
	);

/**
 * How many discrepancies are open and what they come to, for an index and for what needs somebody.
 * @param isEach whether every one is told, and not the largest alone
 */
export async function feeStates(
	locale: string,
	largeFrom = Infinity,
	isEach = false
): Promise<{
	open: number;
	says: string;
	/** whether any payment was held against a contract yet */
	isChecked: boolean;
	largest: readonly {
		id: number;
		says: string;
		sum: string;
		minor: number;
		currency: string;
		counted: string;
		since: string;
		/** at least as much as is asked for, in the home currency */
		isLarge: boolean;
		/** of charges of the account, not of payments */
		isOfAccount: boolean;
	}[];
}> {
	const open = (await db.discrepancies.find({ state: ['open', 'sent', 'agreed'] })).sort(
		(a, b) => Math.abs(remaining(b)) - Math.abs(remaining(a))
	);
	const sums = new Map<string, number>();
	for (const row of open) sums.set(row.currency, (sums.get(row.currency) ?? 0) + remaining(row));
	const names = new Map((await db.connections.find({})).map((one) => [one.id, one.name]));
	const { states, business } = await snapshot();
	const isChecked = open.length > 0 || (await isAnythingChecked());
	/** in the home currency, by the latest rate; what has none is not large */
	const isLarge = (row: DiscrepancyRow): boolean => {
		const minor = Math.abs(remaining(row));
		if (row.currency === business.homeCurrency) return minor >= largeFrom;
		const rate = findRate(states.rates, row.currency, business.homeCurrency, row.lastDay);
		return !!rate && Number(round(unrounded(minor, rate), 'half-even')) >= largeFrom;
	};
	return {
		open: open.length,
		says: open.length
			? `${[...sums].map(([currency, minor]) => formatAmount({ minor, currency }, locale)).join(', ')} to be had back`
			: isChecked
				? 'all as promised'
				: 'nothing checked yet',
		isChecked,
		largest: await Promise.all(
			open
				.filter((row) => row.state === 'open')
				.filter((row, at) => isEach || at < 3 || (at < TOLD && isLarge(row)))
				.map(async (row) => ({
					id: row.id,
					says: `${names.get(row.connectionId) ?? ''}: ${sayCause(named(row), locale, schemeName, await marginOf(row))}`,
					sum: formatAmount({ minor: remaining(row), currency: row.currency }, locale),
					minor: remaining(row),
					currency: row.currency,
					counted: countOf(row, locale),
					since: formatDay(row.firstDay, locale),
					isLarge: isLarge(row),
					isOfAccount: isAccountCause(row.cause)
				}))
		)
	};
}

/** What is worth knowing about fees now, beside every screen of them. */
export async function worthOfFees(locale: string): Promise<Working> {
	const { largest, open, says, isChecked } = await feeStates(locale);
	return {
		title: 'Fees now',
		steps: [
			...largest.map((one) => ({
				mark: 'no' as const,
				title: one.says,
				sub: `${one.counted} since ${one.since}`,
				sum: one.sum,
				link: {
					href: `/watch/discrepancies/${one.id}`,
					label: one.isOfAccount ? 'See the charges' : 'See the payments'
				}
			})),
			{
				title: open ? 'All that is open' : isChecked ? 'Charged as agreed' : 'Nothing checked yet',
				sub: open
					? `${counted(open, 'discrepancy', locale, 'discrepancies')}, ${says}`
					: isChecked
						? 'wherever a contract was confirmed'
						: 'no payment was held against a contract'
			}
		]
	};
}
