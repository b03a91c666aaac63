import { Desk } from '../../tests/world/desk.ts';
import { NAMES } from '../../tests/world/connections.ts';
import { makeWorld, until } from '../../tests/world/index.ts';
import { history } from '../../standins/history/index.ts';
import { many, percentile, timed, type Figure } from './figure.ts';

const PAYERS = 200;
const PAYMENTS = Number(process.env.HOLD_PAYMENTS ?? 1_000_000);

/** Two hundred payers on one till at once, alone, and beside a comparison over a million payments and an import. */
export async function crowd(): Promise<Figure[]> {
	const world = await makeWorld({ JUSTPURSE_ROUND_MS: '500', JUSTPURSE_FILE_WAIT_MS: '8000' }, { with: NAMES });
	try {
		const desk = new Desk(world);
		await desk.openWebShop();
		const files = history({ until: new Date(Date.now() - 86_400_000).toISOString().slice(0, 10), payments: PAYMENTS });
		for (const [name, text] of files)
			await desk.upload('/connect/files?/take', { processor: name }, 'file', `${name}.csv`, text);
		await until(
			'the files are in',
			async () => {
				const { files: list } = await desk.data<{ files: { progress?: number }[] }>('/connect/files');
				return list.length > 0 && list.every((one) => one.progress === undefined);
			},
			1_200_000
		);
		const addresses: string[] = [];
		for (let n = 0; n < PAYERS; n++) addresses.push(await desk.address('20.00', `CROWD-${n}`));
		const round = async () => {
			const times: number[] = [];
			await many(PAYERS * 3, PAYERS, async (n) => {
				times.push(await timed(async () => void (await (await fetch(addresses[n % PAYERS]!)).text())));
			});
			return percentile(times, 95);
		};
		await round();
		const alone = await round();
		const again = [...files][0]!;
		const more = again[1].replaceAll(',online,', ',keyed,');
		const importing = desk
			.upload('/connect/files?/take', { processor: again[0] }, 'file', 'again.csv', more)
			.catch(() => undefined);
		const comparing = desk.get('/connect/compare').then((answer) => answer.text());
		const beside = await round();
		await Promise.all([importing, comparing]);
		return [
			{
				name: `a payer’s page for ${PAYERS} at once beside a comparison over ${PAYMENTS} payments and an import, against alone (${alone.toFixed(0)} ms), 95th percentile`,
				value: beside / alone,
				unit: 'times',
				wanted: 'at most 4',
				holds: beside <= 4 * alone
			}
		];
	} finally {
		await world.end();
	}
}
