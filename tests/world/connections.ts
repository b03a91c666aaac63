import { STANDINS } from '../../standins/main.ts';
import { ConsoleHand } from './console.ts';
import type { ActionAnswer, Desk } from './desk.ts';

/** The processors that are stood in for, in the order of their ports. */
export const NAMES: readonly string[] = Object.values(STANDINS)
	.filter((one) => one.account)
	.map((one) => one.name);
/** The account that an administrator connects at each of them. */
export const ACCOUNTS: Readonly<Record<string, string>> = Object.fromEntries(
	NAMES.map((name) => [name, STANDINS[name]!.account!])
);

export type Mode = 'live' | 'test';

/** The values that an administrator copies from a stand-in's console. */
export async function keysOf(desk: Desk, name: string, mode: Mode = 'live'): Promise<Record<string, string>> {
	const pairs = await Promise.all(
		Object.entries(STANDINS[name]!.keys ?? {}).map(async ([field, kind]) => [
			field,
			await desk.world.keyOf(name, kind, mode)
		])
	);
	return Object.fromEntries(pairs) as Record<string, string>;
}

/** Goes to a processor's page, gives consent there, and comes back. @returns where the application leads to then */
export async function consentAt(
	desk: Desk,
	name: string,
	{
		mode = 'live' as Mode,
		scopes = STANDINS[name]!.scopes!,
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
	const { beforeConnecting, account } = STANDINS[name]!;
	if (beforeConnecting) await desk.world.at(name, `account/${account}`, beforeConnecting);
}

/** Connects a stand-in in its own way. */
export async function connectAt(
	desk: Desk,
	name: string,
	{ mode = 'live' as Mode, given = {} as Record<string, string>, isConfirmed = true } = {}
): Promise<ActionAnswer> {
	if (STANDINS[name]!.scopes) await consentAt(desk, name, { mode });
	const answer = await desk.act(`/connect/processors/${name}?/connect`, {
		mode,
		...(await keysOf(desk, name, mode)),
		...STANDINS[name]!.choices,
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
