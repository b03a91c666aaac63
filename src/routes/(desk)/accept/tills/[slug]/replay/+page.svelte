<script lang="ts">
	import { counted } from '$lib/core/counted';
	import { invalidateAll } from '$app/navigation';
	import { formatAmount } from '$lib/core/money';
	import { Figure, TillSheet, Verdict, Workings } from '$lib/ui';
	import type { Verdict as VerdictParts, Working } from '$lib/core/workings';
	const { data } = $props();
	const pending = $derived('pending' in data ? data.pending : undefined);
	const result = $derived('result' in data ? data.result : undefined);
	let done = $state(0);
	let of = $state(0);
	let stopped = $state(false);
	let open = $state('');

	$effect(() => {
		if (!pending) return;
		const { key } = pending;
		[done, of] = [pending.done, pending.of];
		const at = `/accept/tills/${data.till.slug}/replay/progress?key=${key}`;
		const timer = setInterval(async () => {
			const answer = await fetch(at).catch(() => undefined);
			if (!answer?.ok) return;
			const told = (await answer.json()) as { done: number; of: number; ended: boolean };
			[done, of] = [told.done, told.of];
			if (!told.ended) return;
			clearInterval(timer);
			if (!stopped) await invalidateAll();
		}, 250);
		return () => clearInterval(timer);
	});
	async function stop() {
		stopped = true;
		await fetch(`/accept/tills/${data.till.slug}/replay/progress?key=${pending?.key}`, { method: 'DELETE' });
	}
	const MEANS: Record<string, string> = {
		'same route': 'the same method, carried by the same connection',
		'other route': 'the same method and card, carried by another connection',
		'other method only': 'the payer would have had to pay another way',
		'nothing offered': 'the payer would have met an empty checkout',
		'newly offered': 'what is published does not take it, the draft does',
		'not offered by either': 'neither line-up takes this way to pay; it was taken under an earlier one'
	};
	/** what the draft would have meant, in a sentence */
	const verdict = $derived.by((): VerdictParts => {
		if (!result) return [];
		const of = (name: string) => result.verdicts.find((one) => one.verdict === name);
		const many = (name: string) => of(name)?.count ?? 0;
		const payers = (count: number) => `${count.toLocaleString(data.locale)} payer${count === 1 ? '' : 's'}`;
		const [nothing, otherWay, newly] = ['nothing offered', 'other method only', 'newly offered'].map(many) as [
			number,
			number,
			number
		];
		const behind = (name: string): Working => ({
			title: name[0]!.toUpperCase() + name.slice(1),
			about: MEANS[name],
			steps: (of(name)?.sums ?? []).map((sum) => ({ title: 'Amounts', sum }))
		});
		const fee = result.fees.find((one) => one.before !== one.after);
		const begin = data.hasDraft
			? `Had the draft held these ${data.days} days, `
			: `Over these ${data.days} days, as published, `;
		return [
			{ text: begin },
			nothing
				? { text: `${payers(nothing)} would have met nothing`, tone: 'clay', working: behind('nothing offered') }
				: { text: 'nobody who paid would have met nothing', tone: 'moss' },
			...(otherWay
				? [
						{ text: ', ' },
						{ text: `${payers(otherWay)} would have had to pay another way`, working: behind('other method only') }
					]
				: []),
			...(newly ? [{ text: `, ${payers(newly)} would have been offered their way again` }] : []),
			...(fee
				? [
						{ text: ', and fees would have been ' },
						{
							text: `${fee.difference.replace('-', '').replace('−', '')} ${fee.dearer ? 'more' : 'less'}`,
							tone: fee.dearer ? ('clay' as const) : ('moss' as const),
							working: feeWorking(fee)
						}
					]
				: result.fees.length
					? [{ text: ', at the same fees' }]
					: []),
			{ text: '.' }
		];
	});
	const feeWorking = (one: {
		currency: string;
		count: number;
		before: string;
		after: string;
		difference: string;
	}): Working => ({
		title: 'Fees under both',
		about: `Over the ${counted(one.count, 'payment', data.locale)} whose method and card both line-ups take, each by the rate card of its day.`,
		steps: [
			{ title: 'By what is published', sum: one.before },
			{ title: 'By the draft', sum: one.after },
			{ title: 'Difference', sum: one.difference, total: true }
		]
	});
</script>

<TillSheet till={data.till} title="Replay">
	<p class="mt-3">
		{#each data.periods as days, i (days)}{i ? ' · ' : ''}{#if days === data.days}<b>{days} days</b>{:else}<a
					class="underline"
					href="?days={days}">{days} days</a
				>{/if}{/each}
	</p>
	{#if !data.number}
		<p class="note mt-4">Nothing is published yet, so there is nothing to hold the draft against.</p>
	{:else if pending}
		<section class="note mt-4 max-w-[520px]" aria-live="polite">
			{#if stopped}<p>Stopped. Nothing was changed.</p>
				<button
					class="button mt-2"
					onclick={() => {
						stopped = false;
						void invalidateAll();
					}}>Replay again</button
				>
			{:else}<p>
					Answering {of ? of.toLocaleString(data.locale) : 'the'} payments under both line-ups: {done.toLocaleString(
						data.locale
					)} done.
				</p>
				<progress class="mt-2 w-full" max={of || 1} value={done}></progress>
				<button class="button mt-2" onclick={stop}>Stop the replay</button>{/if}
		</section>
	{:else if result}
		{#if !data.hasDraft}<p class="note mt-3">
				There is no draft: version {data.number} is held against itself. Change an offer, and see here what it would have
				meant.
			</p>{/if}
		{#if result.count === 0}
			<p class="mt-4">
				No captured payments of {data.till.name} in this time. Payments of this till, and of settlement files that name it,
				will be answered here.
			</p>
		{:else}
			<Verdict {verdict} />
			<table class="mt-3">
				<thead
					><tr
						><th class="w-[30%]">{result.count.toLocaleString(data.locale)} payments</th><th class="n">Count</th><th
							class="n">Amounts</th
						></tr
					></thead
				>
				<tbody>
					{#each result.verdicts.filter((one) => one.count > 0) as one (one.verdict)}
						<tr>
							<td
								><b class:text-clay={one.verdict === 'nothing offered'}
									>{one.verdict.charAt(0).toUpperCase() + one.verdict.slice(1)}</b
								><span class="sub">{MEANS[one.verdict]}</span></td
							>
							<td class="n"
								><button
									class="why"
									aria-expanded={open === one.verdict}
									onclick={() => (open = open === one.verdict ? '' : one.verdict)}
									>{one.count.toLocaleString(data.locale)}</button
								></td
							>
							<td class="n">{one.sums.join(' · ')}</td>
						</tr>
						{#if open === one.verdict}
							{#each one.rows as behind, i (i)}<tr class="text-[12px]"
									><td class="pl-4"
										>{#if behind.href}<a class="underline" href={behind.href}>{behind.day}</a
											>{:else}{behind.day}{/if}</td
									><td class="n">{behind.amount}</td><td>{behind.way}</td></tr
								>{/each}
							{#if one.count > one.rows.length}<tr
									><td colspan="3" class="quiet"
										>The latest {one.rows.length} of {one.count.toLocaleString(data.locale)}.</td
									></tr
								>{/if}
						{/if}
					{/each}
				</tbody>
			</table>
			<h2>Fees</h2>
			{#each result.fees as one (one.currency)}
				<p>
					<Figure working={feeWorking(one)}>{one.before}</Figure> as published, <Figure working={feeWorking(one)}
						>{one.after}</Figure
					> by the draft: <b class:text-clay={one.dearer}>{one.difference}</b> over {one.count.toLocaleString(
						data.locale
					)} payments that both take.
				</p>
			{:else}<p class="quiet">No payment that both take has a rate card to be priced by.</p>{/each}
			{#if result.unpriced}<p class="sub">
					{result.unpriced.toLocaleString(data.locale)} payments could not be priced under both and are left out.
				</p>{/if}
			{#if result.moved.length}<p class="mt-2">
					{#each result.moved as one, i (i)}{i ? '; ' : ''}{one.count.toLocaleString(data.locale)} move from {one.from} to
						{one.to}{/each}.
				</p>{/if}
		{/if}
		<h2>Payers who met nothing</h2>
		<p>
			{#if result.unmet.count}
				{result.unmet.count} empty {result.unmet.count === 1 ? 'answer is' : 'answers are'} recorded; the draft would have
				offered something in {result.unmet.newly} of them{result.unmet.sums.length
					? `, ${result.unmet.sums.map((sum) => formatAmount(sum, data.locale)).join(', ')}`
					: ''}.
			{:else}None is recorded in this time.{/if}
		</p>
	{/if}
</TillSheet>
<Workings
	how={{
		title: 'How a replay is answered',
		steps: [
			{ title: 'Each past payment', sub: 'is asked again under both line-ups, with the rates of its day' },
			{ title: 'Everything counts as working', sub: 'no pause and no failure counts: only what the line-ups say' },
			{
				title: 'What is not known',
				sub: 'settlement files do not tell the payer’s country: the card issuer’s country counts, where there is a card; nor groups: who paid by what only some groups are offered counts as one of them'
			},
			{
				title: 'Fees',
				sub: 'are compared only where both take method and card; what is lost or gained stands unpriced'
			}
		]
	}}
/>
