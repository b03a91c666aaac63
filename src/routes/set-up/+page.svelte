<script lang="ts">
	import BusinessFields from '$lib/ui/BusinessFields.svelte';
	import Purse from '$lib/ui/Purse.svelte';
	import { onMount, untrack } from 'svelte';
	import { superForm } from 'sveltekit-superforms';
	const { data } = $props();
	const { form, errors, enhance } = superForm(untrack(() => data.form));

	onMount(() => {
		// a proposal only: the zone this browser is in
		const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
		if (!$form.timeZone && data.zones.includes(zone)) $form.timeZone = zone;
	});
</script>

<svelte:head><title>Set up · Just Purse</title></svelte:head>

<div class="grid min-h-dvh grid-rows-[48px_1fr]">
	<div class="flap"><span class="mark"><Purse />Just Purse</span></div>
	<main class="mx-auto mt-[7vh] w-full max-w-[440px] p-5">
		<h1>First, the business</h1>
		<p class="quiet mt-1">
			Good day, {data.user}. Country, home currency and time zone come first, because everything else depends on them:
			which processors can be used, what counts as a foreign card, when a day ends.
		</p>
		<form method="post" use:enhance>
			<BusinessFields
				bind:values={$form}
				errors={$errors}
				countries={data.countries}
				currencies={data.currencies}
				zones={data.zones}
				locales={data.locales}
			/>
			<button class="button main mt-5">Keep these details</button>
		</form>
	</main>
</div>
