import { Webhook } from 'standardwebhooks';

// Asks for a payer's page and sends notifications, again and again, in a process of its own: what the bench itself does
// meanwhile is no part of what they wait. Told by its parent when to end, it tells the longest waits.

const { page, hook, secret } = JSON.parse(process.argv[2]!) as { page: string; hook: string; secret: string };
let isOn = true;

/** @returns the longest that one answer took, in milliseconds */
async function watch(everyMs: number, ask: () => Promise<unknown>): Promise<number> {
	let longest = 0;
	// a first answer warms both ends
	await ask();
	while (isOn) {
		const begun = performance.now();
		await ask();
		longest = Math.max(longest, performance.now() - begun);
		await new Promise((next) => setTimeout(next, everyMs));
	}
	return longest;
}

let n = 0;
const watching = Promise.all([
	// more payers and notifications than a busy shop has, and few enough not to be the load themselves
	watch(200, async () => (await fetch(page)).text()),
	watch(100, async () => {
		const [id, at] = [`bench-${process.pid}-${n++}`, new Date()];
		const body = JSON.stringify({ id, topic: 'listener.hello', at: at.toISOString() });
		const answer = await fetch(hook, {
			method: 'POST',
			headers: {
				'content-type': 'application/json',
				'webhook-id': id,
				'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
				'webhook-signature': new Webhook(secret).sign(id, at, body)
			},
			body
		});
		if (answer.status !== 200) throw new Error(`a notification was answered ${answer.status}`);
	})
]);
process.once('message', () => {
	isOn = false;
	void watching.then(([payer, notification]) => {
		process.send!({ payer, notification, count: n });
		process.disconnect();
	});
});
process.send!('ready');
