import { createHash } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Method } from '../../src/lib/core/lineup';
import type { Amount } from '../../src/lib/core/money';
import { connectorOf, isProblems, type Credentials, type Mode } from '../../src/lib/server/connectors';
import { checkSign } from '../../standins/fernhall/api.ts';
import { STANDINS } from '../../standins/main.ts';
import { tokenCheck } from '../../standins/sundial/index.ts';
import { ConsoleHand } from '../world/console.ts';
import { freshFetch } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';
import { conforms, type Bench } from './conformance.ts';

interface Wanted {
	readonly name: string;
	readonly processor: string;
	/** kinds of the keys at the stand-in, by the credential's name */
	readonly keys: Readonly<Record<string, string>>;
	readonly given?: Credentials;
	unknown(given: Credentials): Credentials;
	readonly amounts: Partial<Record<Method, readonly Amount[]>>;
	readonly holds?: Method;
	/** the public value that opens the card fields */
	fields?(given: Credentials): string;
	readonly account?: string;
	/** what is switched on at the console first */
	readonly changes?: object;
}

const eur = (minor: number): Amount => ({ minor, currency: 'EUR' });

/** Runs the bench against one of the stand-ins, started for it alone. */
function against(wanted: Wanted): void {
	conforms(wanted.name, async (): Promise<Bench> => {
		const folder = mkdtempSync(join(tmpdir(), 'purse-conformance-'));
		const partner = 'http://127.0.0.1:9';
		const standin = await STANDINS[wanted.processor]!.start({ port: 0, folder, partner });
		process.env[`${wanted.processor.toUpperCase()}_URL`] = standin.address;
		const control = async <T>(path: string, body?: object): Promise<T> =>
			(
				await freshFetch(
					`${standin.address}/control/${path}`,
					body ? { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}
				)
			).json() as Promise<T>;
		if (wanted.changes) await control(`account/${encodeURIComponent(wanted.account!)}`, wanted.changes);
		const connector = connectorOf(wanted.processor);
		const hand = await new ConsoleHand(standin.address, wanted.processor).signIn();
		/** a consent as an administrator gives it, in a browser */
		const tokens = async (mode: Mode): Promise<Credentials> => {
			if (!connector.consent) return {};
			const verifier = 'v'.repeat(50);
			const returnTo = `${partner}/connect/consent/${wanted.processor}`;
			const challenge = createHash('sha256').update(verifier).digest('base64url');
			const asked = connector.consent.address({ state: 's', challenge, returnTo, mode });
			const back = new URL(await hand.consent(asked, Object.keys(connector.consent.scopes)));
			const told = await connector.consent.exchange({ code: back.searchParams.get('code')!, verifier, returnTo });
			if (isProblems(told)) throw new Error(told[0]!.says);
			return { ...told };
		};
		const credentials = async (mode: Mode): Promise<Credentials> => {
			const keys = await control<{ key: string; kind: string; mode: string; revoked?: string }[]>('keys');
			const given = Object.entries(wanted.keys).map(([name, kind]) => [
				name,
				keys.find((one) => one.kind === kind && one.mode === mode && !one.revoked)!.key
			]);
			return { ...Object.fromEntries(given), ...wanted.given, ...(await tokens(mode)) };
		};
		return {
			connector,
			credentials,
			unknown: wanted.unknown,
			amounts: wanted.amounts,
			holds: wanted.holds,
			token:
				wanted.fields &&
				(async (outcome) => {
					const answer = await freshFetch(`${standin.address}/fields/token`, {
						method: 'POST',
						headers: { 'content-type': 'application/json' },
						body: JSON.stringify({
							key: wanted.fields!(await credentials('live')),
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
					account: wanted.account,
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
	});
}

const Q27 = 'Q'.repeat(27);
const cards = [eur(8450), { minor: 12_800, currency: 'JPY' }];
against({
	name: 'Fernhall',
	processor: 'fernhall',
	keys: { publicKey: 'public', secretKey: 'secret' },
	unknown: (given) => ({ ...given, secretKey: `FHS-L-${Q27}${checkSign(Q27)}` }),
	amounts: { card: cards, 'device-wallet': [eur(2100)] },
	fields: (given) => given.publicKey!
});
against({
	name: 'Brackwater Acquiring',
	processor: 'brackwater',
	keys: { number: 'number', token: 'token' },
	unknown: (given) => ({ ...given, token: ['0a1b2c3d', '0a1b2c3d', '0a1b2c3d', '0a1b2c3d'].join('-') }),
	amounts: { card: [eur(8450), { minor: 4200, currency: 'GBP' }], 'bank-redirect': [eur(5600)] },
	fields: (given) => given.number!
});
against({
	name: 'Tallybridge',
	processor: 'tallybridge',
	keys: {},
	given: { account: 'TB-EU-1' },
	unknown: (given) => ({ ...given, access: `at.${Q27}` }),
	amounts: { 'account-wallet': cards, card: [eur(4300)] },
	holds: 'card',
	fields: () => 'TB-EU-1~live'
});
against({
	name: 'Quillon Direct',
	processor: 'quillon',
	keys: { noticeToken: 'notice' },
	account: 'QD-880',
	changes: { switches: { notifications: true, 'payer return': true } },
	unknown: (given) => ({ ...given, noticeToken: `qnr-${'q'.repeat(26)}` }),
	amounts: { 'bank-debit': [eur(4000)], 'credit-transfer': [eur(9000), { minor: 4200, currency: 'GBP' }] }
});
against({
	name: 'Sundial Split',
	processor: 'sundial',
	keys: { number: 'number', token: 'token' },
	given: { tier: 'FOUR' },
	account: 'SUN-104233',
	changes: { waiting: [] },
	unknown: (given) => ({ ...given, token: `SDT${Q27}${tokenCheck(Q27)}` }),
	amounts: { 'pay-later': [eur(14_800)] }
});
against({
	name: 'Ostrel',
	processor: 'ostrel',
	keys: { open: 'open', seal: 'seal' },
	account: 'ostrel:wrenalder',
	unknown: (given) => ({ ...given, seal: `ostrel.seal.${'q'.repeat(32)}` }),
	amounts: { 'bank-app': [eur(3150)] }
});
against({
	name: 'Halfpenny',
	processor: 'halfpenny',
	keys: { publicKey: 'public', secretKey: 'secret' },
	unknown: (given) => ({ ...given, secretKey: `HZ1${'Q'.repeat(22)}` }),
	amounts: { card: [eur(8450), { minor: 4200, currency: 'GBP' }] },
	fields: (given) => given.publicKey!
});
