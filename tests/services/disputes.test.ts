import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// A dispute from the notification to its outcome: deadline, evidence, answer, what it is worth.

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200', JUSTPURSE_ALERTS_MS: '100' });
	desk = new Desk(world);
	await desk.openWebShop();
});
afterAll(() => world.end());

interface Payment {
	id: string;
	minor: number;
	disputed?: { answered?: { text: string; files: string[] }; answerBy: string };
}
let number = 0;
/** A payment that its payer disputes, as Fernhall tells it. */
async function disputed(why: string): Promise<{ id: number; at: string; reference: string }> {
	const reference = `DI-${++number}`;
	await new Desk(world).giveCard(await desk.address(`${80 + number}.00`, reference), CARDS.approved);
	const row = async () =>
		(
			await rows<{ id: number; processor: string | null; stage: string }>(
				world,
				'SELECT id, processor_id AS processor, stage FROM payments WHERE reference = ?',
				[reference]
			)
		)[0];
	await until('it is captured', async () => (await row())?.stage === 'captured');
	const { id, processor } = (await row())!;
	await world.control(`act/${processor}`, { act: 'dispute', why });
	await until('it is disputed', async () => (await row())!.stage === 'disputed');
	return { id, at: processor!, reference };
}
const told = async (at: string) => (await world.control<Payment[]>('payments')).find((one) => one.id === at)!;
interface Shown {
	dispute: {
		reason: string;
		answerBy: string;
		text: string;
		answered: string;
		outcome: string;
		isOver: boolean;
		files: { id: number; name: string }[];
	};
}
const shown = (id: number) => desk.data<Shown>(`/takings/disputes/${id}`).then((one) => one.dispute);

describe('a dispute', () => {
	it('has its reason and deadline, is an alert, and stands first among what waits', async () => {
		const { id, reference } = await disputed('the goods did not come');
		const one = await shown(id);
		expect(one.reason).toBe('the goods did not come');
		expect(one.answerBy).not.toBe('');
		const list = await desk.data<{ open: { id: number; left: string }[]; verdict: { text: string }[] }>(
			'/takings/disputes'
		);
		expect(list.open.map((each) => [each.id, each.left])).toEqual([[id, '13 days left']]);
		expect(list.verdict[0]!.text).toBe('1 dispute waits for an answer');
		const { needs } = await desk.data<{ needs: { id: string; says: string }[] }>('/needs-you');
		expect(needs.find((each) => each.id === `dispute ${id}`)!.says).toContain(reference);
	});
	it('is answered in time with what is known and a file, through the processor, once', async () => {
		const { id, at, reference } = await disputed('the payer does not know it');
		const one = await shown(id);
		// what is known stands there already: the payment, and everything that happened to it
		for (const part of [reference, 'captured', 'disputed']) expect(one.text).toContain(part);
		const added = await desk.upload(
			`/takings/disputes/${id}?/file`,
			{},
			'file',
			'delivery note.pdf',
			'%PDF-1.7 signed by the payer'
		);
		expect(added).toMatchObject({ type: 'success' });
		expect((await shown(id)).files.map((file) => file.name)).toEqual(['delivery note.pdf']);
		const text = `${one.text}\n\nIt was signed for.`;
		const both = await Promise.all([
			desk.act(`/takings/disputes/${id}?/answer`, { text, way: 'processor' }),
			desk.act(`/takings/disputes/${id}?/answer`, { text, way: 'processor' })
		]);
		expect(both.some((answer) => answer.type === 'success')).toBe(true);
		expect((await told(at)).disputed!.answered).toMatchObject({ text, files: ['delivery note.pdf'] });
		expect((await shown(id)).answered).not.toBe('');
		expect(await desk.act(`/takings/disputes/${id}?/answer`, { text, way: 'processor' })).toMatchObject({
			type: 'failure',
			data: { trouble: 'It is answered already.' }
		});
		const file = await desk.get(`/takings/disputes/${id}/file/${(await shown(id)).files[0]!.id}`);
		expect(file.headers.get('content-disposition')).toContain('attachment');
		expect(await file.text()).toBe('%PDF-1.7 signed by the payer');
	});
	it('that is won gives the money back, and its event says so', async () => {
		const { id, at } = await disputed('not as described');
		await desk.act(`/takings/disputes/${id}?/answer`, { text: 'It was as described.', way: 'processor' });
		await world.control(`act/${at}`, { act: 'win' });
		await until('it is won', async () => (await shown(id)).outcome === 'won');
		const [payment] = await rows<{ gone: number; disputed: number }>(
			world,
			'SELECT gone, disputed FROM payments WHERE id = ?',
			[id]
		);
		expect(payment).toEqual({ gone: 0, disputed: 0 });
		const events = await rows<{ payload: string }>(
			world,
			`SELECT payload FROM events WHERE kind = 'dispute.closed' AND object_id = ?`,
			[String(id)]
		);
		expect(events.map((one) => JSON.parse(one.payload))).toMatchObject([{ won: true, lost: 0 }]);
		await until('the alert is closed', async () =>
			(
				await rows<{ closed: number | null }>(world, `SELECT closed_at AS closed FROM alerts WHERE cause = ?`, [
					`dispute ${id}`
				])
			).every((one) => one.closed !== null)
		);
	});
	it('that is lost is counted as a loss', async () => {
		const { id, at } = await disputed('the goods did not come');
		await world.control(`act/${at}`, { act: 'lose' });
		await until('it is lost', async () => (await shown(id)).outcome === 'lost');
		const list = await desk.data<{
			rates: { what: string; payments: string; disputes: string; lost: string; verdict: string }[];
			closed: { id: number; outcome: string }[];
		}>('/takings/disputes');
		expect(list.closed.map((one) => one.outcome).sort()).toEqual(['lost', 'won']);
		const all = list.rates.reduce((sum, one) => sum + Number(one.disputes), 0);
		expect(all).toBe(4);
		expect(list.rates.map((one) => one.lost.replace(/\s/g, ' ')).filter(Boolean)).toEqual(['84.00 EUR']);
		expect(list.rates.every((one) => one.verdict === 'fine')).toBe(true);
	});
	it('is told as missed once its time is over, and can be answered no more', async () => {
		const { id } = await disputed('the goods did not come');
		const database = await openDatabase(world);
		await database.run('UPDATE disputes SET answer_by = ? WHERE payment_id = ?', [Date.now() - 1_000, id]);
		await database.close();
		expect((await shown(id)).isOver).toBe(true);
		expect(await desk.act(`/takings/disputes/${id}?/answer`, { text: 'late', way: 'processor' })).toMatchObject({
			type: 'failure',
			data: { trouble: 'The time to answer is over.', text: 'late' }
		});
	});
	it('keeps what was written where the processor does not answer', async () => {
		const { id } = await disputed('the payer does not know it');
		await world.faults({ errors: true });
		const answer = await desk.act(`/takings/disputes/${id}?/answer`, { text: 'He was here.', way: 'processor' });
		await world.faults({ errors: false });
		expect(answer).toMatchObject({ type: 'failure', data: { text: 'He was here.' } });
		expect((await shown(id)).text).toBe('He was here.');
		expect((await desk.act(`/takings/disputes/${id}?/answer`, { text: 'He was here.', way: 'by hand' })).type).toBe(
			'success'
		);
	});
	it('takes no file that is none, or of another kind', async () => {
		const { id } = await disputed('the goods did not come');
		for (const [name, content] of [
			['page.html', '<script>'],
			['empty.pdf', '']
		] as const)
			expect(await desk.upload(`/takings/disputes/${id}?/file`, {}, 'file', name, content)).toMatchObject({
				type: 'failure'
			});
		expect((await desk.act(`/takings/disputes/${id}?/accept`, {})).type).toBe('success');
		expect((await shown(id)).outcome).toBe('accepted');
	});
});
