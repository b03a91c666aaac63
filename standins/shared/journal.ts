import { appendFileSync, existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

/**
 * Named tables of records that survive a restart. Every change is appended to a file before it counts;
 * at the next start the file is read back and written anew without what was replaced.
 */
export class Journal<Tables extends Record<string, unknown>> {
	private readonly tables = new Map<string, Map<string, unknown>>();
	private closed = false;

	constructor(private readonly file: string) {
		mkdirSync(dirname(file), { recursive: true });
		if (existsSync(file))
			for (const line of readFileSync(file, 'utf8').split('\n')) {
				if (!line) continue;
				let change: [string, string, unknown];
				try {
					change = JSON.parse(line);
				} catch {
					continue; // the last line of a process that was killed while it wrote
				}
				const [table, id, value] = change;
				if (value === null) this.table(table).delete(id);
				else this.table(table).set(id, value);
			}
		const lines: string[] = [];
		for (const [name, rows] of this.tables)
			for (const [id, value] of rows) lines.push(JSON.stringify([name, id, value]));
		writeFileSync(`${file}.new`, lines.length ? `${lines.join('\n')}\n` : '');
		renameSync(`${file}.new`, file);
	}

	private table(name: string): Map<string, unknown> {
		let rows = this.tables.get(name);
		if (!rows) this.tables.set(name, (rows = new Map()));
		return rows;
	}

	get<K extends keyof Tables & string>(table: K, id: string): Tables[K] | undefined {
		return this.table(table).get(id) as Tables[K] | undefined;
	}

	all<K extends keyof Tables & string>(table: K): Tables[K][] {
		return [...this.table(table).values()] as Tables[K][];
	}

	/** From now on nothing is written: the process that it stands for has ended, and its folder may be gone. */
	close(): void {
		this.closed = true;
	}

	private append(change: [table: string, id: string, value: unknown]): void {
		if (!this.closed) appendFileSync(this.file, `${JSON.stringify(change)}\n`);
	}

	put<K extends keyof Tables & string>(table: K, id: string, value: Tables[K]): Tables[K] {
		this.append([table, id, value]);
		this.table(table).set(id, value);
		return value;
	}

	remove<K extends keyof Tables & string>(table: K, id: string): void {
		this.append([table, id, null]);
		this.table(table).delete(id);
	}
}
