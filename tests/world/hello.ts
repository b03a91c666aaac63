import { createHmac } from 'node:crypto';
import { freshFetch, type World } from './index.ts';

/** Fernhall's hook, told as Fernhall tells it: a test notification with an id and a signature of its own. */
export async function helloTo(world: World) {
	const [listener] = await world.control<{ address: string; secret: string }[]>('listeners');
	const { address, secret } = listener!;
	const key = Buffer.from(secret.replace('whsec_', ''), 'base64');
	/** What is sent under an id, signed with a key: the right one where none is given. */
	const signed = (id: string, by: Buffer = key) => {
		const at = String(Math.floor(Date.now() / 1000));
		const body = JSON.stringify({ id, topic: 'listener.hello', at: '2026-11-24T10:00:00.000Z' });
		const signature = createHmac('sha256', by).update(`${id}.${at}.${body}`).digest('base64');
		const headers = {
			'content-type': 'application/json',
			'webhook-id': id,
			'webhook-timestamp': at,
			'webhook-signature': `v1,${signature}`
		};
		return { body, headers };
	};
	/** @returns the whole answer. @throws where nothing came back */
	const ask = (id: string): Promise<Response> => freshFetch(address, { method: 'POST', ...signed(id) });
	/** @returns the status of the answer */
	const send = async (id: string): Promise<number> => {
		const answer = await fetch(address, { method: 'POST', ...signed(id) });
		await answer.text();
		return answer.status;
	};
	return { address, signed, ask, send };
}
