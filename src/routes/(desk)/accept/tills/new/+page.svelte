<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	import TillFields from '$lib/ui/TillFields.svelte';
	import { untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data } = $props();
	const { form, errors, enhance } = superForm(untrack(() => data.form));
</script>

<Sheet
	title="Set up a till"
	about="Any place where someone pays; payers come to it by a signed address"
	test={$form.mode === 'test'}
>
	<form method="post" use:enhance class="max-w-[560px]">
		<TillFields
			bind:values={$form}
			errors={$errors}
			choices={data.choices}
			colours={data.colours}
			domains={data.domains}
			brands={data.brands}
		/>
		<button class="button main mt-5" data-save>Set up till</button>
	</form>
</Sheet>
<Workings
	first={{
		title: 'Then',
		steps: [
			{ title: 'Add offers', sub: 'a method, its route, the card types it takes' },
			{ title: 'Ask what a payer would see', sub: 'in any currency, at any amount' },
			{ title: 'Publish the line-up', sub: 'until then, payers meet nothing here' }
		]
	}}
/>
