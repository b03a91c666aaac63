import { addDays, inZone, readDay } from '../../core/calendar';
import { theBusiness } from '../connect/business';
import { lastCapture } from '../db';
import type { Period } from './kinds';
import { allSides, withVersions, type ShownSide } from './sides';
import { timeNow } from '../signals/clock';

/** What the address of a comparison asks for: the page, its CSV and its PDF read it alike. */
export interface Asked {
	readonly all: readonly ShownSide[];
	readonly chosen: readonly ShownSide[];
	readonly period: Period;
	/** percent a year, as typed */
	readonly capital: string;
	readonly capitalPpm: number;
	readonly homeCurrency: string;
	/** by which rate cards: all payments by today's, or each by the one of its day */
	readonly cards: 'today' | 'then';
}

export async function askedFor(query: URLSearchParams, locale: string): Promise<Asked> {
	const { timeZone, homeCurrency } = await theBusiness();
	const [all, captured] = await Promise.all([allSides(), lastCapture()]);
	const last = inZone(new Date(captured ?? timeNow()), timeZone).day;
	const [from, to] = ['from', 'to'].map((name) => readDay(query.get(name) ?? '', locale));
	const period = { from: from ?? addDays(last, -364), to: to ?? last };
	if (period.from > period.to) [period.from, period.to] = [period.to, period.from];
	const wanted = (query.get('with') ?? '').split(',').filter(Boolean);
	const fitting = all.filter((side) => side.card.settlement === homeCurrency);
	const asked = fitting.filter((side) => wanted.includes(side.id));
	// one side by itself is put beside all connections
	const chosen =
		asked.length > 1 ? asked : fitting.filter((side) => side.kind === 'connection' || wanted.includes(side.id));
	const capital = /^\d{1,2}(\.\d{1,2})?$/.exec(query.get('capital') ?? '')?.[0] ?? '4';
	const cards = query.get('cards') === 'then' ? 'then' : 'today';
	return {
		all,
		chosen: cards === 'then' ? await withVersions(chosen) : chosen,
		cards,
		period,
		capital,
		capitalPpm: Math.round(Number(capital) * 10_000),
		homeCurrency
	};
}
