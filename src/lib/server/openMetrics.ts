/** Metrics of one name: what they are, and their values by label. */
export interface Family {
	readonly name: string;
	readonly type: 'gauge' | 'counter';
	readonly help: string;
	readonly unit?: 'seconds' | 'bytes';
	readonly samples: readonly (readonly [labels: Readonly<Record<string, string>>, value: number])[];
}
const escaped = (text: string): string => text.replace(/\\/g, '\\\\').replace(/"/g, '\\"').replace(/\n/g, '\\n');

/** @source OpenMetrics 1.0, the text format */
export function writeMetrics(families: readonly Family[]): string {
	const lines = families.flatMap(({ name, type, help, unit, samples }) => [
		`# TYPE ${name} ${type}`,
		...(unit ? [`# UNIT ${name} ${unit}`] : []),
		`# HELP ${name} ${escaped(help)}`,
		...samples.map(([labels, value]) => {
			const inside = Object.entries(labels).map(([key, text]) => `${key}="${escaped(text)}"`);
			return `${name}${type === 'counter' ? '_total' : ''}${inside.length ? `{${inside.join(',')}}` : ''} ${value}`;
		})
	]);
	return `${[...lines, '# EOF'].join('\n')}\n`;
}
