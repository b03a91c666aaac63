// What a document consists of, as plain data: it is put together where the database is, and drawn in another thread.

export const INK = '#2B2320';
export const QUIET = '#6F635B';
export const RULE = '#E2D9CB';
export const CLAY = '#A9482A';

export interface PdfAsked {
	readonly title: string;
	/** BCP 47 */
	readonly language: string;
	readonly landscape?: boolean;
	/** what stands at the foot of every page, beside its number */
	readonly foot: string;
}
export interface PdfCell {
	readonly text: string;
	readonly bold?: boolean;
	readonly right?: boolean;
	readonly color?: string;
	readonly size?: number;
}
export type PdfRole = 'H1' | 'H2' | 'P';
export interface PdfText {
	readonly size?: number;
	readonly color?: string;
	readonly bold?: boolean;
	/** points below it */
	readonly gap?: number;
}
export interface PdfColumn {
	readonly head: string;
	readonly lines: readonly string[];
}
/** A QR code, with the words to its right; its first line tells it to assistive technology. */
export interface PdfCode {
	readonly code: string;
	readonly text: string;
	readonly link?: string;
}
export type PdfBlock =
	| ({ readonly kind: 'text'; readonly role: PdfRole; readonly text: string } & PdfText)
	| { readonly kind: 'columns'; readonly columns: readonly PdfColumn[] }
	| { readonly kind: 'codes'; readonly codes: readonly PdfCode[] }
	| { readonly kind: 'logo'; readonly picture: Uint8Array; readonly name: string }
	| { readonly kind: 'gap'; readonly points: number }
	/** the first row is the head */
	| { readonly kind: 'table'; readonly widths: readonly number[]; readonly rows: readonly (readonly PdfCell[])[] };
