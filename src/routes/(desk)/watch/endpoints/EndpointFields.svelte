<script lang="ts">
	import { EVENTS, TOLD_KINDS } from '$lib/core/hooks';
	interface Props {
		start: { address: string; description: string; kinds: readonly string[] };
		errors?: Readonly<Record<string, string>>;
	}
	/** What an endpoint is asked for: its address, what it is, and which events it hears. */
	let { start, errors = {} }: Props = $props();
	const groups = [...new Set(TOLD_KINDS.map((kind) => kind.split('.')[0]!))];
	// svelte-ignore state_referenced_locally
	let isAll = $state(start.kinds.length === 0);
</script>

<label class="block"
	><span class="legend">Address</span><input
		name="address"
		type="url"
		required
		maxlength="1000"
		class="w-full max-w-xl"
		placeholder="https://shop.example/hooks"
		value={start.address}
		aria-invalid={errors.address ? 'true' : undefined}
		aria-describedby={errors.address ? 'address-wrong' : undefined}
	/></label
>
{#if errors.address}<p class="wrong" id="address-wrong">{errors.address}</p>{/if}
<label class="mt-3 block"
	><span class="legend">What it is</span><input
		name="description"
		maxlength="120"
		class="w-full max-w-xl"
		placeholder="Stock of the web shop"
		value={start.description}
	/></label
>
<fieldset class="mt-4">
	<legend class="legend">Events</legend>
	<label class="flex min-h-[27px] items-center gap-1.5"
		><input type="radio" name="all" value="yes" checked={isAll} onchange={() => (isAll = true)} />All, also those that
		come with a later version</label
	>
	<label class="flex min-h-[27px] items-center gap-1.5"
		><input type="radio" name="all" value="no" checked={!isAll} onchange={() => (isAll = false)} />Only these</label
	>
	{#if !isAll}
		<div class="mt-2 grid gap-x-6 gap-y-3 sm:grid-cols-2">
			{#each groups as group (group)}
				<div>
					<p class="legend">{group.replace('_', ' ')}</p>
					{#each TOLD_KINDS.filter((kind) => kind.startsWith(`${group}.`)) as kind (kind)}<label
							class="flex min-h-[24px] items-baseline gap-1.5"
							><input type="checkbox" name="kind" value={kind} checked={start.kinds.includes(kind)} /><span
								><span class="mono text-[13px]">{kind}</span><span class="sub">{EVENTS[kind].says}</span></span
							></label
						>{/each}
				</div>
			{/each}
		</div>
	{/if}
</fieldset>
