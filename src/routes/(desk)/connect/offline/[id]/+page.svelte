<script lang="ts">
	import { formatDecimal } from '$lib/core/money';
	import { enhance as plain } from '$app/forms';
	import { Figure, Said, Sheet, Workings } from '$lib/ui';
	import OfflineFields from '$lib/ui/OfflineFields.svelte';
	import OfflinePreview from '$lib/ui/OfflinePreview.svelte';
	import type { Working } from '$lib/core/workings';
	import { untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data, form: answer } = $props();
	const { form, errors, enhance, message } = superForm(
		untrack(() => data.form),
		{ resetForm: false, id: 'offline' }
	);
	const said = $derived(answer as { says?: string; trouble?: string; commonWrong?: string; common?: string } | null);
	const use = $derived(data.use);
	const usage: Working = $derived({
		title: `${data.name}: how it is used`,
		about: use ? `Over the last ${use.days} days.` : undefined,
		steps: use
			? [
					{ title: 'Chosen by payers', sum: String(use.chosen) },
					{ title: 'Payments of any kind', sum: String(use.all) },
					{
						title: 'Share',
						sum: use.all ? `${formatDecimal((100 * use.chosen) / use.all, 1, data.locale)} %` : '–',
						total: true
					},
					{ title: 'Paid so far', sum: String(use.paid) },
					{
						title: 'Days until paid',
						sub: 'the middle one of those that were paid',
						sum: use.daysUntilPaid === null ? '–' : formatDecimal(use.daysUntilPaid, 1, data.locale)
					}
				]
			: [],
		end: use?.hardly
			? {
					tone: 'brass',
					text: 'Hardly used: under two in a hundred payments. Each costs somebody’s time; dropping it is worth a thought.'
				}
			: undefined
	});
</script>

<Sheet title={data.name} about="Offline method: {data.kind.toLowerCase()}{data.paused ? ', paused' : ''}">
	{#snippet acts()}
		<form method="post" action="?/pause" use:plain>
			<button class="button">{data.paused ? `Resume ${data.name}` : `Pause ${data.name}`}</button>
		</form>
		<form method="post" action="?/remove" use:plain><button class="button">Remove {data.name}</button></form>
	{/snippet}
	<Said form={said} />
	{#if $message}<p class="note moss mt-4" role="status">{$message}</p>
	{:else if data.isNew && !said}<p class="note moss mt-4" role="status">
			<b>Added.</b> Next: offer it at <a class="why" href="/accept">a till</a>.
		</p>{/if}
	<p class="mt-3">
		{#if use}<Figure working={usage}>Chosen {use.chosen} times in {use.days} days</Figure>{use.daysUntilPaid === null
				? ''
				: `, paid after ${formatDecimal(use.daysUntilPaid, 1, data.locale)} days`}.{/if}
		{data.tills.length ? `Offered at ${data.tills.join(', ')}.` : 'No till offers it yet.'}
		{#if use?.hardly}<span class="text-clay">Hardly used: dropping it is worth a thought.</span>{/if}
	</p>
	<form method="post" action="?/save" use:enhance>
		<OfflineFields
			bind:values={$form}
			errors={$errors}
			choices={data.choices}
			homeCurrency={data.homeCurrency}
			common={data.common}
		/>
		<button class="button main mt-5" data-save>Save {data.name}</button>
	</form>
	<h2>As payers read it</h2>
	<p class="quiet mb-2">A sample of {data.sample.sum}; codes and references as they were saved last.</p>
	<OfflinePreview shop={data.shop} values={$form} sample={data.sample} />
	<h2>All offline methods</h2>
	<form method="post" action="?/common" use:plain class="flex items-end gap-3">
		<label class="max-w-56"
			><span class="legend">Offered from, in {data.homeCurrency}</span><input
				name="common"
				inputmode="decimal"
				value={said?.common ?? data.commonPlain}
				aria-invalid={said?.commonWrong ? 'true' : undefined}
			/></label
		>
		<button class="button">Keep threshold of all</button>
	</form>
	{#if said?.commonWrong}<span class="wrong" role="alert">{said.commonWrong}</span>{/if}
	<span class="sub">Below it, no till offers any offline method. Empty: no such threshold.</span>
</Sheet>
<Workings first={usage} />
