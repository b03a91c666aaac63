<script lang="ts">
	import { Sheet, Workings } from '$lib/ui';
	import TillPreview from '$lib/ui/TillPreview.svelte';
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
	<form method="post" use:enhance class="mt-2 max-w-[760px]">
		<TillFields
			bind:values={$form}
			errors={$errors}
			choices={data.choices}
			colours={data.colours}
			domains={data.domains}
			brands={data.brands}
		/>
		<div class="act-bar"><button class="button main" data-save>Set up till</button></div>
	</form>
</Sheet>
<Workings
	how={{
		title: 'What comes after this',
		steps: [
			{ title: 'Add offers', sub: 'a method, its route, the card types it takes' },
			{ title: 'Ask what a payer would see', sub: 'in any currency, at any amount' },
			{ title: 'Publish the line-up', sub: 'until then, payers meet nothing here' }
		]
	}}
>
	<TillPreview shop={data.business.name} values={$form} />
</Workings>
