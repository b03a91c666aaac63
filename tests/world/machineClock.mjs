// Loaded into a process before anything else: its machine's clock is off by what a file says, in milliseconds. Only the clock
// that can be set; the one that never jumps goes on.
import { readFileSync } from 'node:fs';

const Machine = Date;
let [off, readAt] = [0, -Infinity];
const now = () => {
	const at = performance.now();
	if (at - readAt > 20) {
		readAt = at;
		try {
			off = Number(readFileSync(process.env.MACHINE_CLOCK_FILE, 'utf8')) || 0;
		} catch {
			// it is being written: what was read last holds
		}
	}
	return Machine.now() + off;
};
globalThis.Date = class Date extends Machine {
	constructor(...given) {
		if (given.length) super(...given);
		else super(now());
	}
	static now() {
		return now();
	}
};
