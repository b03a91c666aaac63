import { ConsoleHand } from './console.ts';
import type { ActionAnswer, Desk } from './desk.ts';

export const ACCOUNTS: Readonly<Record<string, string>> = {
	fernhall: 'FH-20417',
	brackwater: 'BW-5518',
	tallybridge: 'TB-EU-1',
	quillon: 'QD-880',
	sundial: 'SUN-104233',
	ostrel: 'ostrel:wrenalder',
	halfpenny: 'HP/31177'
};
const KEYS: Readonly<Record<string, Readonly<Record<string, string>>>> = {
	fernhall: { publicKey: 'public', secretKey: 'secret' },
	brackwater: { number: 'number', token: 'token' },
	quillon: { noticeToken: 'notice' },
	sundial: { number: 'number', token: 'token' },
	ostrel: { open: 'open', seal: 'seal' },
	halfpenny: { publicKey: 'public', secretKey: 'secret' }
};
const CHOICES: Readonly<Record<string, Readonly<Record<string, string>>>> = {
	tallybridge: { account: 'TB-EU-1' },
	sundial: { tier: 'FOUR' }
};
export const SCOPES: Readonly<Record<string, readonly string[]>> = {
	tallybridge: ['account', 'collect', 'notices'],
	quillon: ['read', 'collect']
};

export type Mode = 'live' | 'test';

/** The values that an administrator copies from a stand-in's console. */
export async function keysOf(desk: Desk, name: string, mode: Mode = 'live'): Promise<Record<string, string>> {
	const pairs = await Promise.all(
		Object.entries(KEYS[name] ?? {}).map(async ([field, kind]) => [field, await desk.world.keyOf(name, kind, mode)])
	);
	return Object.fromEntries(pairs) as Record<string, string>;
}

/** Goes to a processor's page, gives consent there, and comes back. @returns where the application leads to then */
export async function consentAt(
	desk: Desk,
	name: string,
	{
		mode = 'live' as Mode,
		scopes = SCOPES[name]!,
		answer = 'yes' as 'yes' | 'no',
		path = `/connect/processors/${name}?/consent`
	} = {}
): Promise<string> {
	const asked = await desk.act(path, { mode });
	const hand = await new ConsoleHand(desk.world.addressOf(name), name).signIn();
	const back = await hand.consent(asked.location!, scopes, answer);
	return (await desk.get(back)).headers.get('location') ?? '';
}

/** Everything that is done at a stand-in's console before it can be connected. */
export async function prepare(desk: Desk, name: string): Promise<void> {
	if (name === 'quillon')
		await desk.world.at(name, `account/${ACCOUNTS.quillon}`, {
			switches: { notifications: true, 'payer return': true }
		});
	if (name === 'sundial') await desk.world.at(name, `account/${ACCOUNTS.sundial}`, { waiting: [] });
}

/** Connects a stand-in in its own way. */
export async function connectAt(
	desk: Desk,
	name: string,
	{ mode = 'live' as Mode, given = {} as Record<string, string>, isConfirmed = true } = {}
): Promise<ActionAnswer> {
	if (SCOPES[name]) await consentAt(desk, name, { mode });
	const answer = await desk.act(`/connect/processors/${name}?/connect`, {
		mode,
		...(await keysOf(desk, name, mode)),
		...CHOICES[name],
		...given
	});
	if (answer.type === 'redirect' && isConfirmed) await desk.confirmPrices(idOf(answer));
	return answer;
}
export const idOf = (answer: ActionAnswer): string => {
	const match = /connections\/([^?]+)/.exec(answer.location ?? '');
	if (!match) throw new Error(`not connected: ${JSON.stringify(answer)}`);
	return match[1]!;
};
export const NAMES = ['fernhall', 'brackwater', 'tallybridge', 'quillon', 'sundial', 'ostrel', 'halfpenny'];
