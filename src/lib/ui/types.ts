/** One line of an index. */
export interface IndexItem {
	readonly name: string;
	readonly href: string;
	/** one line of state */
	readonly state?: string;
	/** a word at the right: draft, test */
	readonly tag?: string;
	/** the line that makes a new one */
	readonly add?: boolean;
	/** something is not well with it: it stands first, and its state in clay */
	readonly bad?: boolean;
	/** what the `remove` action of the page is given to take this line away */
	readonly removes?: string;
}
export interface IndexGroup {
	readonly name: string;
	readonly items: readonly IndexItem[];
	/** closed at first, unless what is shown is in it */
	readonly folded?: boolean;
}
