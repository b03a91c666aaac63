import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Browser, By, Key } from '../world/browser.ts';
import { ACCOUNTS, NAMES } from '../world/connections.ts';
import { consoleSignIn } from '../world/console.ts';
import { rows } from '../world/database.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { connectFernhall, setUpBusiness, signIn } from '../world/steps.ts';

let world: World;
let desk: Browser;
beforeAll(async () => {
	world = await makeWorld({}, { with: NAMES });
	desk = await Browser.open();
	await signIn(desk, world);
	await setUpBusiness(desk);
});
afterAll(async () => {
	const complaints = await desk?.complaints();
	await desk?.close();
	await world?.end();
	expect(complaints).toEqual([]);
});

/** Signs in at a stand-in's own console, if it asks. */
async function atConsole(name: string): Promise<void> {
	// the way there goes through our own server: it is looked at only once the browser has come
	await until('its console', async () => (await desk.driver.getCurrentUrl()).startsWith(world.addressOf(name)));
	if (!(await desk.path()).endsWith('/sign-in')) return;
	const { mail, password } = consoleSignIn(name);
	await (await desk.find('input[name=mail]')).sendKeys(mail);
	await (await desk.find('input[name=password]')).sendKeys(password, Key.ENTER);
}
const openConsole = async (name: string) => {
	await desk.go(`${world.addressOf(name)}/console`);
	await atConsole(name);
};
const open = (path: string) => desk.go(world.app.address + path);
const connectionOf = async (processor: string) =>
	(
		await rows<{ id: string; hook_key: string }>(world, 'SELECT * FROM connections WHERE processor = ?', [processor])
	)[0]!;
/** Gives consent at a processor's page, and comes back by itself. */
async function giveConsent(name: string): Promise<void> {
	await atConsole(name);
	await desk.press('Give consent', 'button');
	await desk.sees('Consent is given');
}

describe('the four ways to connect', () => {
	it('two keys: swapped first, then right', { timeout: 180_000 }, async () => {
		const keys = await world.keys();
		await open('/connect/processors/fernhall');
		await desk.fill('Public key', keys.secretKey);
		await desk.fill('Secret key', keys.publicKey);
		await desk.press('Connect Fernhall', 'button');
		await desk.sees('The two are swapped.');
		await connectFernhall(desk, world);
	});
	it('number and token, by keyboard alone', { timeout: 180_000 }, async () => {
		const [number, token] = [await world.keyOf('brackwater', 'number'), await world.keyOf('brackwater', 'token')];
		await open('/connect/processors');
		await desk.sees('Connect Brackwater Acquiring');
		const focused = (): Promise<string> =>
			desk.driver.executeScript(
				`const one = document.activeElement; const label = one?.labels?.[0]; return ((label?.querySelector('.legend, span') ?? label ?? one)?.textContent ?? '').trim();`
			);
		const reach = async (name: string) => {
			for (let n = 0; n < 90; n++) {
				await desk.keys(Key.TAB);
				if ((await focused()) === name) return;
			}
			throw new Error(`Tab never came to ${name}`);
		};
		await reach('Connect Brackwater Acquiring');
		await desk.keys(Key.ENTER);
		await desk.sees('Merchant number');
		await reach('Merchant number');
		// the margin says where the processor shows it, as soon as the box has focus
		await desk.sees('MERCHANT NUMBER', '.workings');
		await desk.keys(number.slice(0, -1), Key.TAB, token, Key.ENTER);
		await desk.sees('10 digits; this has 9');
		await reach('Merchant number');
		await desk.chord(Key.CONTROL, 'a');
		await desk.keys(number, Key.TAB);
		await desk.chord(Key.CONTROL, 'a');
		await desk.keys(token, Key.ENTER);
		await desk.sees('Connected and verified.');
	});
	it('consent and return: refused, left, given, an account chosen', { timeout: 180_000 }, async () => {
		await open('/connect/processors/tallybridge');
		await desk.press('Go to Tallybridge and give consent', 'button');
		await atConsole('tallybridge');
		await desk.press('Refuse', 'button');
		await desk.sees('You refused the consent at Tallybridge');
		// left halfway and come back to: it stands in the index as begun
		await open('/takings');
		await open('/connect/processors');
		await desk.press('Finish connecting Tallybridge', 'a');
		await desk.press('Go to Tallybridge and give consent', 'button');
		await giveConsent('tallybridge');
		await desk.sees('Choose the account');
		await (await desk.find('input[value="TB-EU-1"]')).click();
		await desk.press('Connect Tallybridge', 'button');
		await desk.sees('Connected and verified.');
	});
	it(
		'consent plus a token, with notifications switched on by hand at the processor',
		{ timeout: 180_000 },
		async () => {
			await open('/connect/processors/quillon');
			await desk.press('Go to Quillon Direct and give consent', 'button');
			await giveConsent('quillon');
			await desk.sees('Switch notifications on');
			await desk.fill('Notice token', await world.keyOf('quillon', 'notice'));
			await desk.press('Connect Quillon Direct', 'button');
			await desk.sees('Notifications are switched off at Quillon');
			await world.at('quillon', `account/${ACCOUNTS.quillon}`, {
				switches: { notifications: true, 'payer return': true }
			});
			await desk.press('Connect Quillon Direct', 'button');
			await desk.sees('Connected and verified.');
			await desk.sees('Notifications are still to be set up');
		}
	);
});

describe('a missing event', () => {
	it('is found, ticked off by hand, and proven by a test notification', { timeout: 180_000 }, async () => {
		const { id, hook_key } = await connectionOf('quillon');
		await open('/needs-you');
		await desk.sees('Quillon Direct does not tell of pending');
		await open(`/connect/connections/${id}/notifications`);
		await desk.sees('7 missing');
		const names = [
			'mandate_signed',
			'money_collected',
			'mandate_refused',
			'money_certain',
			'debit_bounced',
			'money_returned_to_payer'
		];
		const listen = (topics: string[]) =>
			world.at('quillon', 'listener', {
				id: 'by-hand',
				account: ACCOUNTS.quillon,
				mode: 'live',
				address: `${world.app.address}/hooks/${hook_key}`,
				topics,
				secret: ''
			});
		await listen(names);
		await desk.press('Read what is switched on there');
		await desk.sees('1 missing');
		await desk.sees('no payment would become paid out');
		await listen([...names, 'transfer_to_you']);
		await desk.press('Read what is switched on there');
		await desk.sees('All that is needed is subscribed.');
		await desk.press('Ask for a test notification');
		await until('it was heard', async () => !(await desk.text()).includes('Last heard never yet'));
	});
	it('is subscribed in one step where the processor has an interface for it', { timeout: 180_000 }, async () => {
		const { id } = await connectionOf('brackwater');
		const [listener] = await world.at<{ id: string; topics: string[] }[]>('brackwater', 'listeners');
		await world.at('brackwater', 'listener', {
			...listener,
			topics: listener!.topics.filter((one) => one !== 'REFUND')
		});
		await open(`/connect/connections/${id}/notifications`);
		await desk.press('Read what is switched on there');
		await desk.sees('1 missing: refunded.');
		await desk.press('Set up just what is needed at Brackwater Acquiring');
		await desk.sees('All that is needed is subscribed.');
		const [after] = await world.at<{ topics: string[] }[]>('brackwater', 'listeners');
		expect(after!.topics).toContain('REFUND');
	});
});

describe('keys', () => {
	it('are rotated: both valid until the chosen time, then the old ones are ended', { timeout: 180_000 }, async () => {
		const before = await world.keys();
		await openConsole('fernhall');
		await desk.sees('Account and keys');
		const make = await desk.driver.findElements(By.css('form[action$="keys/make"] button, form[action$="keys/make"]'));
		expect(make.length).toBeGreaterThan(0);
		await world.at('fernhall', 'keys');
		const cookie = (await desk.driver.manage().getCookies()).map((one) => `${one.name}=${one.value}`).join('; ');
		await fetch(`${world.addressOf('fernhall')}/console/keys/make`, {
			method: 'POST',
			headers: { cookie },
			body: new URLSearchParams({ account: 'FH-20417', mode: 'live', kind: 'secret' }),
			redirect: 'manual'
		});
		const secretKey = await world.keyOf('fernhall', 'secret');
		expect(secretKey).not.toBe(before.secretKey);
		const { id } = await connectionOf('fernhall');
		await open(`/connect/connections/${id}/keys`);
		await desk.fill('New public key', before.publicKey);
		await desk.fill('New secret key', secretKey);
		await desk.press('Put new keys in place', 'button');
		await desk.sees('New credentials are in use.');
		await desk.sees(`•••• ${before.secretKey.slice(-4)}`);
		await desk.press('End the old ones now');
		await desk.sees('The old credentials are ended.');
		const old = (await world.control<{ key: string; revoked?: string }[]>('keys')).find(
			(one) => one.key === before.secretKey
		);
		expect(old!.revoked).toBeTruthy();
	});
	it('stay when a disconnect is called off', { timeout: 180_000 }, async () => {
		const { id } = await connectionOf('fernhall');
		await open(`/connect/connections/${id}/keys`);
		await desk.press('See what disconnecting would hurt');
		await desk.sees('What disconnecting Fernhall would hurt');
		await desk.press('Disconnect Fernhall', 'button');
		await desk.sees('Nothing was disconnected: tick that you have read the list.');
		await desk.press('Keep it connected');
		await open(`/connect/connections/${id}`);
		await desk.sees('Verified');
		expect(await rows(world, 'SELECT id FROM connections WHERE id = ? AND removed_at IS NULL', [id])).toHaveLength(1);
	});
});

describe('what each can do', () => {
	it('stands in one table, with the reason behind every no in the margin', { timeout: 180_000 }, async () => {
		await open('/connect/abilities?method=card');
		await desk.sees('Card schemes');
		const place = await desk.driver.executeScript<number>(
			`return [...document.querySelectorAll('.abilities thead th')].findIndex((one) => one.textContent.includes('Brackwater'))`
		);
		const cell = await desk.driver.findElement(By.xpath(`//tr[th[text()='Device wallet']]/td[${place}]//button`));
		await cell.click();
		await desk.sees('Brackwater Acquiring does not offer it.', '.workings');
	});
});
