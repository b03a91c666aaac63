import { answerMix, type ByHand, type MixGroup, type MixRates, type MixSide } from '../core/fees';

type Given = { groups: MixGroup[]; sides: MixSide[]; rates: MixRates };
let given: Given | undefined;

/** Prices a mix beside the page while sliders move. What it is made of comes once; kinds that were priced stay priced. */
onmessage = ({ data }: MessageEvent<{ given: Given } | { turn: number; asked: ByHand }>) => {
	if ('given' in data) given = data.given;
	else if (given) {
		const begun = performance.now();
		const answer = answerMix(given, data.asked);
		postMessage({ turn: data.turn, answer, ms: performance.now() - begun });
	}
};
