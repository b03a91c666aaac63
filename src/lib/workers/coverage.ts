import { coverage, isProcessorsOwnBound, weighSituations, type CoverageInput, type PastPayers } from '../core/lineup';

/** Works coverage out beside the page, so that typing never waits for it. The latest question wins. */
onmessage = ({ data }: MessageEvent<{ turn: number; input: CoverageInput; past: readonly PastPayers[] }>) => {
	const begun = performance.now();
	const found = coverage(data.input);
	const weights = weighSituations(found.situations, data.input, data.past);
	const bounds = found.situations.map((one) => isProcessorsOwnBound(one, data.input));
	postMessage({ turn: data.turn, found, weights, bounds, ms: performance.now() - begun });
};
