export type Stream = { till: string; method: string; connection: string; gross: number; fee: number };
/** From till by method to connection, and from there to the bank and to fees. */
export function drawStreams(
	streams: readonly Stream[],
	scale: number,
	locale: string,
	{ ink, rule, series }: { ink: string; rule: string; series: readonly string[] }
) {
	const links = new Map<string, { source: string; target: string; value: number }>();
	const add = (source: string, target: string, minor: number) => {
		const key = `${source} ${target}`;
		const known = links.get(key) ?? { source, target, value: 0 };
		links.set(key, { ...known, value: known.value + minor / scale });
	};
	for (const one of streams) {
		add(`1 ${one.till}`, `2 ${one.method}`, one.gross);
		add(`2 ${one.method}`, `3 ${one.connection}`, one.gross);
		add(`3 ${one.connection}`, '4 Bank', one.gross - one.fee);
		if (one.fee > 0) add(`3 ${one.connection}`, '4 Fees', one.fee);
	}
	const names = [...new Set([...links.values()].flatMap((one) => [one.source, one.target]))];
	return {
		tooltip: {
			trigger: 'item',
			valueFormatter: (value: unknown) =>
				Number(value).toLocaleString(locale, { minimumFractionDigits: 2, maximumFractionDigits: 2 })
		},
		series: [
			{
				type: 'sankey',
				left: 0,
				right: 110,
				top: 8,
				bottom: 8,
				draggable: false,
				emphasis: { focus: 'adjacency' },
				label: { color: ink, formatter: (node: { name?: string }) => (node.name ?? '').slice(2) },
				lineStyle: { color: rule, opacity: 0.7 },
				data: names.map((name) => ({
					name,
					itemStyle: { color: name === '4 Fees' ? series[4] : series[Number(name[0]) - 1] }
				})),
				links: [...links.values()]
			}
		]
	};
}
