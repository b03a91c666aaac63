import { coverage, type CoverageInput } from '../core/lineup';

/** Works coverage out beside the page, so that typing never waits for it. The latest question wins. */
onmessage = ({ data }: MessageEvent<{ turn: number; input: CoverageInput }>) => {
	const begun = performance.now();
	const found = coverage(data.input);
	postMessage({ turn: data.turn, found, ms: performance.now() - begun });
};
