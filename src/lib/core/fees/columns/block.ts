import { PPM } from '../../money';

/** So many payments are worked on together; they stay in the processor's nearest cache. */
export const BLOCK = 4_096;

/*
 * The loops over a block work in this module's own arrays, into which a block is copied and from which its fees are. Of
 * those the compiler knows place and length once and for all, so that nothing is checked payment by payment: it halves
 * the time of the same loops over arrays that are handed in, the copying counted. They hold nothing between two calls.
 */
const KIND = new Uint16Array(BLOCK);
const BASE = new Float64Array(BLOCK);
const FEES = new Float64Array(BLOCK);
/** places within the block of what a loop could not decide */
const ASIDE = new Uint32Array(BLOCK + 1);
/** eight numbers of each kind, side by side; there is room for as many kinds as a column can tell apart */
const PACKED = new Float64Array(2 ** 16 * 8);

/** Keeps what the next loops read of each kind. @param numbers eight of a kind at the most, in the order that the loop says */
export function packKinds(count: number, numbers: (k: number) => readonly number[]): void {
	for (let k = 0; k < count; k++) PACKED.set(numbers(k), k << 3);
}

/** Takes in the payments of a block. @returns how many there are */
export function loadBlock(kind: Uint16Array, base: Float64Array, from: number, to: number): number {
	KIND.set(kind.subarray(from, to));
	BASE.set(base.subarray(from, to));
	return to - from;
}

/** Hands out the fees of a block, and then each place that was put aside, for the exact way. */
export function storeFees(fees: Float64Array, from: number, count: number, many: number, exact: (n: number) => void) {
	fees.set(FEES.subarray(0, count), from);
	for (let m = 0; m < many; m++) exact(from + ASIDE[m]!);
}

/** Of a kind: bound, -, fixed part, -, -, -, all percentages. Nothing bounds a fee. @returns how many were put aside */
export function priceOpen(count: number): number {
	let many = 0;
	for (let n = 0; n < count; n++) {
		const at = KIND[n]! << 3;
		const paid = BASE[n]!;
		FEES[n] = Math.floor((paid * PACKED[at + 6]! + PACKED[at + 2]!) / PPM);
		if (paid > PACKED[at]!) ASIDE[many++] = n;
	}
	return many;
}

/** Of a kind: bound, own percentage, fixed part, minimum, maximum, other percentages. @returns how many were put aside */
export function priceClamped(count: number): number {
	let many = 0;
	for (let n = 0; n < count; n++) {
		const at = KIND[n]! << 3;
		const paid = BASE[n]!;
		const markup = Math.min(Math.max(paid * PACKED[at + 1]! + PACKED[at + 2]!, PACKED[at + 3]!), PACKED[at + 4]!);
		FEES[n] = Math.floor((markup + paid * PACKED[at + 5]!) / PPM);
		if (paid > PACKED[at]!) ASIDE[many++] = n;
	}
	return many;
}

/** The same where halves go to the even neighbour. @returns how many were put aside */
export function priceEven(count: number): number {
	let many = 0;
	for (let n = 0; n < count; n++) {
		const at = KIND[n]! << 3;
		const paid = BASE[n]!;
		const markup = Math.min(Math.max(paid * PACKED[at + 1]! + PACKED[at + 2]!, PACKED[at + 3]!), PACKED[at + 4]!);
		const exact = markup + paid * PACKED[at + 5]!;
		const fee = Math.floor(exact / PPM);
		// a tie goes up; to the even neighbour it goes down again where that is the odd one
		FEES[n] = exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
		if (paid > PACKED[at]!) ASIDE[many++] = n;
	}
	return many;
}

/**
 * Part by part, each rounded by itself, halves up or everything up. Of a kind: bound, own percentage, fixed part, minimum
 * and maximum in whole minor units, interchange, scheme fee, conversion.
 * @param bias what makes a floor of the rounding, in millionths of a minor unit
 * @param intermediary parts per million on top
 * @returns how many were put aside
 */
export function priceByParts(count: number, bias: number, intermediary: number): number {
	let many = 0;
	for (let n = 0; n < count; n++) {
		const at = KIND[n]! << 3;
		const base = BASE[n]!;
		let fee = Math.floor((base * PACKED[at + 1]! + bias) / PPM) + PACKED[at + 2]!;
		if (fee < PACKED[at + 3]!) fee = PACKED[at + 3]!;
		else if (fee > PACKED[at + 4]!) fee = PACKED[at + 4]!;
		const interchange = PACKED[at + 5]!;
		const scheme = PACKED[at + 6]!;
		const conversion = PACKED[at + 7]!;
		if (interchange > 0) fee += Math.floor((base * interchange + bias) / PPM);
		if (scheme > 0) fee += Math.floor((base * scheme + bias) / PPM);
		if (conversion > 0) fee += Math.floor((base * conversion + bias) / PPM);
		if (intermediary > 0) fee += Math.floor((base * intermediary + bias) / PPM);
		FEES[n] = fee;
		if (!(base >= 0 && base <= PACKED[at]!)) ASIDE[many++] = n;
	}
	return many;
}
