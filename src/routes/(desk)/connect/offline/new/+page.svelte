<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	import OfflineFields from '$lib/ui/OfflineFields.svelte';
	import { untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data } = $props();
	const { form, errors, enhance } = superForm(
		untrack(() => data.form),
		{ id: 'offline' }
	);
	$effect(() => {
		// another kind begins with words of its own
		const fresh = data.form.data;
		if (untrack(() => $form.kind) !== fresh.kind) $form = { ...fresh };
	});
</script>

<Sheet title="Add an offline method" about="A way to pay that no processor carries, and of which none takes a part">
	<nav class="mt-4 flex flex-wrap gap-2" aria-label="Kinds">
		{#each data.kinds as one (one.kind)}<a
				class="button small {one.kind === data.kind ? '!bg-brass-soft font-semibold' : ''}"
				aria-current={one.kind === data.kind ? 'page' : undefined}
				href="?kind={one.kind}"
				data-sveltekit-noscroll>{one.name}</a
			>{/each}
	</nav>
	{#key data.kind}
		<form method="post" action="?kind={data.kind}" use:enhance>
			<OfflineFields
				bind:values={$form}
				errors={$errors}
				choices={data.choices}
				homeCurrency={data.homeCurrency}
				common={data.common}
			/>
			<button class="button main mt-5" data-save>Add {$form.name || 'offline method'}</button>
		</form>
	{/key}
</Sheet>
<Workings
	how={{
		title: 'How a payer will meet it',
		steps: [
			{
				title: 'A payer chooses it',
				sub:
					data.kind === 'credit-transfer'
						? 'and sees account, amount and a reference of their own'
						: 'and reads your instructions'
			},
			{ title: 'The order waits', sub: 'in Takings, as requested' },
			{ title: 'You record what came', sub: 'whole, in part or too much' }
		]
	}}
/>
