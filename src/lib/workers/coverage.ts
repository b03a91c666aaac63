import {
	coverage,
	isProcessorsOwnBound,
	lostSituations,
	weighSituations,
	type CoverageInput,
	type LineUp,
	type PastPayers
} from '../core/lineup';

interface Asked {
	readonly turn: number;
	readonly input: CoverageInput;
	readonly past: readonly PastPayers[];
	/** the line-up as it stood before what is typed, where the two are held against each other */
	readonly before?: LineUp;
}

/** Works coverage out beside the page, so that typing never waits for it. The latest question wins. */
onmessage = ({ data: { turn, input, past, before } }: MessageEvent<Asked>) => {
	const begun = performance.now();
	const found = coverage(input);
	const weights = weighSituations(found.situations, input, past);
	const bounds = found.situations.map((one) => isProcessorsOwnBound(one, input));
	const { states, base, domains } = input;
	const [then, now] = [
		{ lineUp: before ?? [], states },
		{ lineUp: input.lineUp, states }
	];
	const closes = before ? lostSituations(then, now, base, domains).situations : [];
	const opens = before ? lostSituations(now, then, base, domains).situations : [];
	postMessage({ turn, found, weights, bounds, closes, opens, ms: performance.now() - begun });
};
