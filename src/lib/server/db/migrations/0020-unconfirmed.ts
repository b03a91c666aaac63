/** How many arrivals of a connection wait to be confirmed is counted with every group of them that comes. */
export const twentieth: readonly string[] = [
	`CREATE INDEX arrivals_unconfirmed ON arrivals (connection_id) WHERE state = 'unconfirmed'`
];
