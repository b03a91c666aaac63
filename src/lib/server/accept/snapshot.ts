import { addDays, inZone } from '../../core/calendar';
import { LineUp, type States } from '../../core/lineup';
import { unseal } from '../access';
import { readAccount } from '../connectors/account';
import {
	db,
	exchangeRatesSince,
	type BusinessRow,
	type ConnectionRow,
	type OfflineMethodRow,
	type PauseRow,
	type TillRow
} from '../db';
import { freshness } from '../signals/freshness';
import { settingsOf, type TillSettings } from './tills';
import { timeNow } from '../signals/clock';

/** A till as payers meet it: its published line-up and the key that its addresses are signed with. */
export interface OpenTill {
	readonly row: TillRow;
	readonly currencies: readonly string[];
	readonly key: Uint8Array;
	readonly settings: TillSettings;
	readonly published?: { readonly number: number; readonly lineUp: LineUp };
}

/** Everything that an answer depends on, read once and kept until something changes. */
export interface Snapshot {
	readonly business: BusinessRow;
	readonly states: States;
	readonly connections: ReadonlyMap<string, ConnectionRow>;
	readonly offline: ReadonlyMap<string, OfflineMethodRow>;
	readonly tills: ReadonlyMap<string, OpenTill>;
	readonly schemeNames: Readonly<Record<string, string>>;
}

const RATE_DAYS = 40;
const MAX_AGE_MS = 60_000;
let held: { at: number; clock: number; version: number; snapshot: Promise<Snapshot> } | undefined;

/** Old by either clock: one that is set back, or moved forward, leaves nothing standing. */
const isOld = ({ at, clock }: { at: number; clock: number }): boolean =>
	performance.now() - at > MAX_AGE_MS || Math.abs(timeNow() - clock) > MAX_AGE_MS;

export function snapshot(): Promise<Snapshot> {
	if (!held || held.version !== freshness() || isOld(held)) {
		const reading = read();
		held = { at: performance.now(), clock: timeNow(), version: freshness(), snapshot: reading };
		reading.catch(() => (held = undefined));
	}
	return held.snapshot;
}

async function read(): Promise<Snapshot> {
	const business = await db.business.one({ id: 1 });
	if (!business) throw new Error('The business is not set up yet');
	const today = inZone(new Date(timeNow()), business.timeZone).day;
	const [connections, offline, tills, published, rates, proofs, codes, pauses] = await Promise.all([
		db.connections.find(),
		db.offlineMethods.find(),
		db.tills.find(),
		db.lineUps.find({ state: 'published' }),
		exchangeRatesSince(addDays(today, -RATE_DAYS)),
		db.domainProofs.find({ state: 'proven' }),
		db.pageCodes.find({ state: 'present' }),
		db.pauses.find({ endedAt: null })
	]);
	const paused = (kind: PauseRow['kind']) =>
		pauses.filter((one) => one.kind === kind && (one.until === null || one.until > timeNow())).map((one) => one.value);
	const pausedConnections = paused('connection');
	const here = connections.filter((row) => !row.removedAt);
	const schemeNames: Record<string, string> = {};
	const connectionStates = Object.fromEntries(
		here.map((row) => {
			const account = readAccount(row.account);
			for (const scheme of account.schemes) schemeNames[scheme.id] = scheme.name;
			return [
				row.id,
				{
					id: row.id,
					name: row.name,
					processor: row.processor,
					mode: row.mode,
					verified: row.verified === 1,
					paused: row.paused === 1 || pausedConnections.includes(row.id),
					failing: row.failing === 1,
					abilities: account.abilities,
					excludes: account.excludes
				}
			];
		})
	);
	const common = business.offlineMinimum
		? [{ currency: business.homeCurrency, minimum: business.offlineMinimum, common: true }]
		: [];
	const offlineStates = Object.fromEntries(
		offline
			.filter((row) => !row.removedAt)
			.map((row) => [
				row.id,
				{
					id: row.id,
					name: row.name,
					method: row.kind,
					paused: row.paused === 1,
					currencies: db.offlineMethods.json.currencies(row.currencies),
					thresholds: [
						...db.offlineMethods.json.threshold(row.threshold).map((one) => ({ ...one, common: false })),
						...common
					]
				}
			])
	);
	const byDomain = (rows: readonly { domain: string; connectionId: string }[]) => {
		const lists: Record<string, string[]> = {};
		for (const row of rows) (lists[row.domain] ??= []).push(row.connectionId);
		return lists;
	};
	return {
		business,
		connections: new Map(connections.map((row) => [row.id, row])),
		offline: new Map(offline.map((row) => [row.id, row])),
		schemeNames,
		tills: new Map(
			tills.map((row) => {
				const version = published.find((one) => one.tillId === row.id);
				return [
					row.slug,
					{
						row,
						currencies: db.tills.json.currencies(row.currencies),
						settings: settingsOf(row),
						key: unseal(row.signingKeySealed, `till ${row.id}`),
						published: version && { number: version.number!, lineUp: db.lineUps.json.offers(version.offers) }
					}
				];
			})
		),
		states: {
			connections: connectionStates,
			offline: offlineStates,
			pausedMethods: paused('method'),
			pausedSchemes: paused('scheme'),
			pausedCurrencies: paused('currency'),
			rates: rates.map((row) => ({
				day: row.day,
				from: row.fromCurrency,
				to: row.toCurrency,
				rate: row.rate,
				source: row.source
			})),
			homeCurrency: business.homeCurrency,
			provenDomains: byDomain(proofs),
			pageCodes: byDomain(codes)
		}
	};
}
