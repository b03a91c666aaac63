import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';
import { describe, expect, it } from 'vitest';

// The words on screens and in messages are those of docs/glossary.md: what it says not to say stands nowhere.

const glossary = readFileSync('docs/glossary.md', 'utf8');
/** The words of the columns headed “not”, each with the word to say instead. */
const forbidden = glossary
	.split('\n')
	.filter((line) => line.startsWith('|') && !/^\|[\s|-]*$/.test(line))
	.map((line) =>
		line
			.split('|')
			.slice(1, -1)
			.map((cell) => cell.trim())
	)
	.filter((cells) => !['not', 'word', 'say'].includes(cells.at(-1)!) && cells[0] !== 'word' && cells[0] !== 'say')
	.flatMap((cells) =>
		cells
			.at(-1)!
			.split(',')
			.map((word) => word.trim())
			.filter(Boolean)
			.map((word) => ({ word, say: cells[0]! }))
	);

function filesIn(folder: string): string[] {
	return readdirSync(folder, { withFileTypes: true }).flatMap((entry) =>
		entry.isDirectory() ? filesIn(join(folder, entry.name)) : [join(folder, entry.name)]
	);
}
/** Every text of a script: what stands between quotes, without comments and names. */
function textsOf(script: string): string[] {
	const texts: string[] = [];
	const source = ts.createSourceFile('a.ts', script, ts.ScriptTarget.Latest, true);
	const visit = (node: ts.Node): void => {
		if (ts.isImportDeclaration(node)) return;
		if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node) || ts.isTemplateHead(node))
			texts.push(node.text);
		else if (ts.isTemplateMiddle(node) || ts.isTemplateTail(node)) texts.push(node.text);
		ts.forEachChild(node, visit);
	};
	visit(source);
	return texts;
}
/** What people read of a component: its markup without scripts, styles, comments and tags, and the texts of both. */
function readOf(file: string): string[] {
	const text = readFileSync(file, 'utf8');
	if (!file.endsWith('.svelte')) return textsOf(text);
	const scripts = [...text.matchAll(/<script[^>]*>([\s\S]*?)<\/script>/g)].flatMap((found) => textsOf(found[1]!));
	const markup = text
		.replace(/<script[\s\S]*?<\/script>|<style[\s\S]*?<\/style>|<!--[\s\S]*?-->/g, '')
		// expressions are code; the texts within them are read as texts
		.replace(/\{[#:/@][^}]*\}/g, ' ');
	const within = [...markup.matchAll(/'([^'\n]*)'|`([^`]*)`/g)].map((found) => found[1] ?? found[2] ?? '');
	return [...scripts, ...within, markup.replace(/<[^>]*>/g, '\n').replace(/\{[^{}]*\}/g, ' ')];
}
/** A text for people has words apart; a name in code is one word. */
const isProse = (text: string) => /[a-z] [a-z]/i.test(text);

describe('the words on screens and in messages', () => {
	const files = ['src/routes', 'src/lib/ui', 'src/lib/server', 'src/lib/core']
		.flatMap(filesIn)
		.filter((file) => /\.(svelte|ts)$/.test(file) && !file.endsWith('.test.ts') && !file.endsWith('.d.ts'));

	it('are those of the glossary', () => {
		expect(forbidden.length).toBeGreaterThan(25);
		const found = files.flatMap((file) =>
			readOf(file)
				.filter(isProse)
				.flatMap((text) =>
					forbidden
						.filter(({ word }) => new RegExp(`(?<![\\w-])${word}(?![\\w-])`, 'i').test(text))
						.map(
							({ word, say }) => `${file}: “${word}”, say “${say}”: ${text.trim().replace(/\s+/g, ' ').slice(0, 90)}`
						)
				)
		);
		expect(found).toEqual([]);
	});
	it('name every thing of the glossary somewhere', () => {
		const all = files.flatMap(readOf).join('\n').toLowerCase();
		for (const word of [
			'connection',
			'offline method',
			'till',
			'line-up',
			'standby',
			'withheld',
			'situation',
			'least change'
		])
			expect([word, all.includes(word)]).toEqual([word, true]);
	});
	it('count one thing as one', () => {
		// “1 payments” comes of a plural that is written after a figure without looking at it
		const careless = files
			.filter((file) => file.endsWith('.svelte'))
			.flatMap((file) => {
				const markup = readFileSync(file, 'utf8');
				return [
					...markup.matchAll(/\{(?:many\()?[\w.!]*count[\w.!]*\)?\} (payments|refunds|disputes|payers|orders|files)\b/g)
				].map((found) => `${file}: ${found[0]}`);
			});
		expect(careless).toEqual([]);
	});
});
