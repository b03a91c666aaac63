import { NAMES } from '../tests/world/connections.ts';
import { Desk } from '../tests/world/desk.ts';
import { until, type World } from '../tests/world/index.ts';

const HOUR = 3_600_000;
/** So many days of notifications are sent once more, hour by hour, as the clock passes them. */
export const DAYS = 35;
/** Brackwater tells nothing for so many hours of last Saturday, its busiest day. */
const SILENT = { fromHour: 9, hours: 9 } as const;

const stockIs = (world: World, broken: boolean) =>
	fetch(`${world.addressOf('shop')}/stock/broken`, {
		method: 'POST',
		headers: { 'content-type': 'application/json' },
		body: JSON.stringify({ broken })
	});
/** Adds an endpoint at the shop's own server. */
async function endpoint(desk: Desk, world: World, description: string, kinds: string[]): Promise<void> {
	const answer = await desk.act('/watch/endpoints/new', {
		address: `${world.addressOf('shop')}/stock`,
		description,
		all: kinds.length ? 'no' : 'yes',
		kind: kinds
	});
	if (answer.type !== 'success') throw new Error(JSON.stringify(answer));
}

/**
 * Lets the clock go through the last five weeks, hour by hour. The processors tell what they took as its time comes, by
 * notifications of their own; Brackwater's stay out for nine hours of one day. Hours in which nothing was taken pass together.
 * @param taken when they took payments, in milliseconds since 1970
 */
export async function passWeeks(
	world: World,
	taken: readonly number[],
	now: () => Promise<number>,
	says: (line: string) => void
): Promise<void> {
	const desk = new Desk(world);
	await desk.setUp();
	const isQuiet = async (name: string) => (await world.at<{ waiting: number }>(name, 'waiting')).waiting === 0;
	const quiet = () =>
		Promise.all(NAMES.map((name) => until(`${name} has told what it took`, () => isQuiet(name), 20_000, 10)));
	const dayOf = (at: number) => new Intl.DateTimeFormat('sv-SE', { timeZone: 'Europe/Brussels' }).format(at);
	const hourOf = (at: number) =>
		Number(
			new Intl.DateTimeFormat('en-GB', { timeZone: 'Europe/Brussels', hour: '2-digit', hour12: false }).format(at)
		);
	const saturday = ((new Date().getDay() + 1) % 7) + (new Date().getDay() === 0 || new Date().getDay() === 6 ? 7 : 0);
	const day = dayOf(Date.now() - saturday * 24 * HOUR);
	const isSilentAt = (at: number) =>
		dayOf(at) === day && hourOf(at) >= SILENT.fromHour && hourOf(at) < SILENT.fromHour + SILENT.hours;
	/** How many hours pass at once: up to the next in which something is taken, a day ends, or the silence begins or ends. */
	const hoursFrom = (at: number): number => {
		const isPlain = (from: number) =>
			!taken.some((one) => one > from && one <= from + HOUR) &&
			dayOf(from) === dayOf(from + HOUR) &&
			isSilentAt(from) === isSilentAt(from + HOUR);
		let hours = 1;
		while (hours < 12 && isPlain(at + (hours - 1) * HOUR) && Date.now() - at > (hours + 0.5) * HOUR) hours++;
		return hours;
	};
	let isSilent = false;
	let told = 0;
	const begun = await now();
	let isBroken = false;
	while (Date.now() - (await now()) > 0.5 * HOUR) {
		const at = await now();
		const is = isSilentAt(at);
		if (is !== isSilent) {
			// what it would have told in these hours it never tells
			if (!is) await world.at('brackwater', 'forget', {});
			await world.at('brackwater', 'faults', { silent: is });
			isSilent = is;
		}
		// since yesterday nothing reaches the stock program
		if (!isBroken && Date.now() - at < 26 * HOUR) {
			isBroken = true;
			await stockIs(world, true);
			await endpoint(desk, world, 'Stock of the web shop', ['payment.captured', 'alert.opened', 'alert.closed']);
		}
		const passed = await desk.act('/needs-you?/pass', { step: 'hour', times: String(hoursFrom(at)) });
		if (passed.type === 'error' || passed.type === 'failure') throw new Error(JSON.stringify(passed));
		if (!isSilent) await quiet();
		const share = Math.floor((((await now()) - begun) / (Date.now() - begun)) * 5);
		if (share > told) {
			told = share;
			says(`notifications of the last five weeks: ${share * 20} %`);
		}
	}
}
