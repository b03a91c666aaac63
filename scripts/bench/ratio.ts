/** What one benchmark found: a ratio of one run against its floor. */
export interface Ratio {
	readonly name: string;
	readonly ratio: number;
	readonly wanted: string;
	readonly holds: boolean;
	readonly detail: string;
}
