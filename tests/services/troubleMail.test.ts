import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, SIGN_IN, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// A processor that mails somebody when its notifications do not get here: whom it mails is set with the notifications.

let world: World;
let desk: Desk;
let page = '';
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['fernhall', 'mailbox', 'brackwater'] });
	desk = new Desk(world);
	await desk.openWebShop();
	await world.at('fernhall', 'mail', await world.at<object>('mailbox', 'smtp'));
	const [row] = await rows<{ id: string }>(world, `SELECT id FROM connections WHERE processor = 'fernhall'`);
	page = `/connect/connections/${row!.id}/notifications`;
});
afterAll(() => world.end());

const listener = async () =>
	(await world.control<{ troubleMail: string; topics: string[]; secret: string }[]>('listeners'))[0]!;
const mails = (to: string) =>
	world.at<{ subject: string; text: string }[]>('mailbox', `mails?to=${encodeURIComponent(to)}`);
/** what stands in the box of the page */
const shown = async () => /<input name="mail"[^>]*value="([^"]*)"/.exec(await (await desk.get(page)).text())?.[1];

describe('who is mailed when notifications do not get here', () => {
	it('is the administrator, as soon as the processor is connected', async () => {
		expect((await listener()).troubleMail).toBe(SIGN_IN.mail);
		expect(await shown()).toBe(SIGN_IN.mail);
	});
	it('is whoever is set there: the notifications stay as they were, and the trail tells it', async () => {
		const before = await listener();
		const answer = await desk.act(`${page}?/mail`, { mail: ' jonas@wrenalder.example ' });
		expect(answer.type).toBe('success');
		expect(await listener()).toMatchObject({ ...before, troubleMail: 'jonas@wrenalder.example' });
		expect(await shown()).toBe('jonas@wrenalder.example');
		expect(await (await desk.get('/watch/trail')).text()).toContain('jonas@wrenalder.example');
		// setting the notifications up once more leaves it
		await desk.act(`${page}?/setUp`, {});
		expect((await listener()).troubleMail).toBe('jonas@wrenalder.example');
	});
	it('is nobody, where that is wanted: setting the notifications up once more does not change it', async () => {
		expect((await desk.act(`${page}?/mail`, { mail: '' })).type).toBe('success');
		expect((await listener()).troubleMail).toBe('');
		await desk.act(`${page}?/setUp`, {});
		expect((await listener()).troubleMail).toBe('');
		expect((await shown()) ?? '').toBe('');
		await desk.act(`${page}?/mail`, { mail: 'jonas@wrenalder.example' });
	});
	it('is no text that is no address: what was typed stays', async () => {
		const answer = await desk.act(`${page}?/mail`, { mail: 'jonas at wrenalder' });
		expect(answer).toMatchObject({ type: 'failure', data: { mail: 'jonas at wrenalder' } });
		expect(await shown()).toBe('jonas@wrenalder.example');
	});
	it('stays who it was where the processor cannot be asked', async () => {
		await world.faults({ down: true });
		const answer = await desk.act(`${page}?/mail`, { mail: 'nobody@wrenalder.example' });
		await world.faults({ down: false });
		expect(answer.type).toBe('failure');
		expect(await shown()).toBe('jonas@wrenalder.example');
	});
	it('is mailed by the processor when nothing gets here, once a day', async () => {
		await until('the connection is sound again', async () =>
			(await rows<{ failing: number }>(world, 'SELECT failing FROM connections')).every((one) => !one.failing)
		);
		await desk.giveCard(await desk.address('84.50', 'TM-1'), CARDS.approved);
		await until('all is told', async () => (await world.control<{ waiting: number }>('waiting')).waiting === 0);
		const [{ at }] = (await rows<{ at: string }>(
			world,
			`SELECT processor_id AS at FROM payments WHERE reference = 'TM-1'`
		)) as [{ at: string }];
		await world.app.kill();
		await world.control(`act/${at}`, { act: 'dispute', why: 'the goods did not come' });
		await until('a mail came', async () => (await mails('jonas@wrenalder.example')).length > 0);
		const [mail] = await mails('jonas@wrenalder.example');
		expect(mail!.subject).toBe('Fernhall cannot reach your address');
		expect(mail!.text).toContain('/hooks/');
		await world.app.start();
		await until('what was missed came all the same', async () => {
			const [row] = await rows<{ stage: string }>(world, `SELECT stage FROM payments WHERE reference = 'TM-1'`);
			return row!.stage === 'disputed';
		});
		expect(await mails('jonas@wrenalder.example')).toHaveLength(1);
		expect(await mails(SIGN_IN.mail)).toEqual([]);
	});
});
