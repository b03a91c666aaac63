import { createHash } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Method } from '../../src/lib/core/lineup';
import { connectorOf, isProblems, type Credentials, type Mode } from '../../src/lib/server/connectors';
import type { Manifest } from '../../standins/shared/manifest.ts';
import { ConsoleHand } from '../world/console.ts';
import { freshFetch } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';
import type { Bench } from './conformance.ts';

/** What acts at a stand-in as its own people do. */
export interface StandinBench extends Bench {
	control<T>(path: string, body?: object): Promise<T>;
}

/** Starts a stand-in for one test alone, with all that its connector is tried with. */
export async function setUpBench({
	name,
	account,
	choices,
	keys: boxes = {},
	beforeConnecting,
	start,
	trial
}: Required<Manifest>): Promise<StandinBench> {
	const folder = mkdtempSync(join(tmpdir(), 'purse-conformance-'));
	const partner = 'http://127.0.0.1:9';
	const standin = await start({ port: 0, folder, partner });
	process.env[`${name.toUpperCase()}_URL`] = standin.address;
	const control = async <T>(path: string, body?: object): Promise<T> =>
		(
			await freshFetch(
				`${standin.address}/control/${path}`,
				body ? { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}
			)
		).json() as Promise<T>;
	if (beforeConnecting) await control(`account/${encodeURIComponent(account)}`, beforeConnecting);
	const connector = connectorOf(name);
	const hand = await new ConsoleHand(standin.address, name).signIn();
	/** a consent as an administrator gives it, in a browser */
	const tokens = async (mode: Mode): Promise<Credentials> => {
		if (!connector.consent) return {};
		const verifier = 'v'.repeat(50);
		const returnTo = `${partner}/connect/consent/${name}`;
		const challenge = createHash('sha256').update(verifier).digest('base64url');
		const asked = connector.consent.address({ state: 's', challenge, returnTo, mode });
		const back = new URL(await hand.consent(asked, Object.keys(connector.consent.scopes)));
		const told = await connector.consent.exchange({ code: back.searchParams.get('code')!, verifier, returnTo });
		if (isProblems(told)) throw new Error(told[0]!.says);
		return { ...told };
	};
	const credentials = async (mode: Mode): Promise<Credentials> => {
		const keys = await control<{ key: string; kind: string; mode: string; revoked?: string }[]>('keys');
		const given = Object.entries(boxes).map(([box, kind]) => [
			box,
			keys.find((one) => one.kind === kind && one.mode === mode && !one.revoked)!.key
		]);
		return { ...Object.fromEntries(given), ...choices, ...(await tokens(mode)) };
	};
	return {
		control,
		connector,
		credentials,
		unknown: (given) => ({ ...trial.unknown(given) }),
		amounts: trial.amounts,
		holds: trial.holds as Method | undefined,
		token:
			trial.fields &&
			(async (outcome) => {
				const answer = await freshFetch(`${standin.address}/fields/token`, {
					method: 'POST',
					headers: { 'content-type': 'application/json' },
					body: JSON.stringify({
						key: trial.fields!(await credentials('live')),
						number: CARDS[outcome],
						expiry: '09/29',
						code: '123'
					})
				});
				return ((await answer.json()) as { token: string }).token;
			}),
		pay: async (processorId, outcome) => {
			const act = (what: string) => control(`act/${processorId}`, { act: what });
			if (outcome === 'declined') return void (await act('refuse'));
			await act('approve');
			// a debit that was signed is collected by the bank later
			await act('submit');
		},
		trouble: async (kind) =>
			void (await control('faults', {
				down: kind === 'down',
				errors: kind === 'errors',
				nonsense: kind === 'nonsense',
				loseAnswer: kind === 'lost answer'
			})),
		listenByHand: async (address) =>
			void (await control('listener', {
				id: 'by-hand',
				account: account,
				mode: 'live',
				address,
				topics: [...Object.values(connector.byHand!.names), 'hello_there', 'ring'],
				secret: ''
			})),
		notifications: async () => (await control<{ body: string }[]>('deliveries')).map((one) => one.body),
		stop: async () => {
			await standin.stop();
			rmSync(folder, { recursive: true, force: true });
		}
	};
}
