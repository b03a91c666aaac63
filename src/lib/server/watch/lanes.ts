import { log } from '../log';
import { wake } from '../signals/wake';

/**
 * Work that is done apart for each connection: what one of them waits for holds up no other, and no more of it is begun
 * while some of it is under way. Whoever looks for work leaves out the connections that are at work.
 */
export class ConnectionLanes {
	private readonly working = new Map<string, Promise<void>>();

	/** Connections that are at work now. */
	get busy(): string[] {
		return [...this.working.keys()];
	}

	/**
	 * Begins each connection's own list, in its order. Does not wait for any of it.
	 * @param act does the next few of one connection, and sees to what goes wrong with any. Where even that fails, as on a full
	 * disk, the rest of this connection is left as it is: it stays due, and whoever looks for work begins it again
	 * @param together how many it is given at a time
	 * @param atOnce how many times it is under way for one connection at the same time
	 */
	begin<T extends { readonly connectionId: string }>(
		list: readonly T[],
		act: (some: readonly T[]) => Promise<void>,
		{ together = 1, atOnce = 1 } = {}
	): void {
		const byConnection = new Map<string, T[]>();
		for (const one of list) byConnection.set(one.connectionId, [...(byConnection.get(one.connectionId) ?? []), one]);
		for (const [connectionId, mine] of byConnection) {
			if (this.working.has(connectionId)) continue;
			let isWell = true;
			const inTurn = async () => {
				try {
					while (isWell && mine.length) await act(mine.splice(0, together));
				} catch (error) {
					isWell = false;
					log.error({ connection: connectionId, error: String(error) }, 'what is due is worked on again later');
				}
			};
			const work = Promise.all(Array.from({ length: atOnce }, inTurn)).then(() => {
				this.working.delete(connectionId);
				// there may be more of it
				if (isWell) wake();
			});
			this.working.set(connectionId, work);
		}
	}

	/** Waits for all that was begun. */
	async end(): Promise<void> {
		await Promise.allSettled(this.working.values());
	}
}
