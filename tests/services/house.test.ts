import { ESLint } from 'eslint';
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';

/** What ESLint says of imports in a file that would stand somewhere. */
async function complaints(file: string, code: string): Promise<string[]> {
	const [result] = await new ESLint().lintText(code, { filePath: file });
	return result!.messages.filter((one) => one.ruleId === 'no-restricted-imports').map((one) => one.message);
}

describe('imports run one way', () => {
	it.each([
		['src/lib/core/money/new.ts', `import { readFileSync } from 'node:fs'; readFileSync('x');`],
		['src/lib/core/money/new.ts', `import { open } from '$lib/server/db'; open();`],
		['src/lib/core/money/new.ts', `import { onMount } from 'svelte'; onMount(() => {});`],
		['src/lib/core/money/new.ts', `import { Sequelize } from 'sequelize'; new Sequelize();`],
		['src/lib/ui/new.ts', `import { open } from '$lib/server/db'; open();`],
		['src/lib/server/accept/new.ts', `import { Sequelize } from 'sequelize'; new Sequelize();`],
		['src/lib/server/accept/new.ts', `import { useMargin } from '$lib/ui'; useMargin();`],
		['src/lib/server/connect/new.ts', `import { allTills } from '../accept/tills'; allTills();`],
		['src/lib/server/payments/new.ts', `import { theBusiness } from '../connect/business'; theBusiness();`],
		['src/lib/server/ratecards/new.ts', `import { record } from '../payments/record'; record();`],
		['src/lib/server/signals/new.ts', `import { open } from '../db'; open();`],
		['src/routes/new/+server.ts', `import sqlite3 from 'sqlite3'; sqlite3.verbose();`],
		['src/routes/new/+page.server.ts', `import { open } from '$lib/server/db'; open();`],
		['standins/new.ts', `import { amount } from '../src/lib/core/money'; amount(1, 'EUR');`]
	])('%s may not hold %s', async (file, code) => {
		expect(await complaints(file, code)).not.toEqual([]);
	});
	it.each([
		['src/lib/core/money/new.ts', `import { isLuhnValid } from '../cards'; isLuhnValid('1');`],
		['src/lib/server/db/new.ts', `import { Sequelize } from 'sequelize'; new Sequelize();`],
		['src/lib/server/accept/new.ts', `import { theBusiness } from '../connect/business'; theBusiness();`],
		['src/routes/new/+page.server.ts', `import { allTills } from '$lib/server/accept/tills'; allTills();`]
	])('%s may hold %s', async (file, code) => {
		expect(await complaints(file, code)).toEqual([]);
	});
});

it('gives every package a line in docs/design.md', () => {
	const { dependencies } = JSON.parse(readFileSync('package.json', 'utf8')) as { dependencies: Record<string, string> };
	const design = readFileSync('docs/design.md', 'utf8');
	for (const name of Object.keys(dependencies))
		expect([
			name,
			design.includes(`\`${name}\``) || (name.startsWith('@fontsource') && design.includes('@fontsource-variable/*'))
		]).toEqual([name, true]);
});
