<script lang="ts">
	interface Picked {
		readonly id: string;
		readonly name: string;
		readonly mail: string;
	}
	interface Props {
		value: Picked | undefined;
		onpick: (payer: Picked & Record<string, string>) => void;
		label?: string;
	}
	/** A payer, found by a part of the name, mail or number. */
	const { value, onpick, label = 'Payer' }: Props = $props();
	const id = $props.id();
	let text = $state('');
	let found = $state<(Picked & Record<string, string>)[]>([]);
	let at = $state(0);
	let isOpen = $state(false);
	let asked = 0;
	async function look() {
		const mine = ++asked;
		const answer = await fetch(`/bill/payers/find?q=${encodeURIComponent(text)}`);
		if (!answer.ok || mine !== asked) return;
		found = await answer.json();
		at = 0;
		isOpen = true;
	}
	function pick(payer: Picked & Record<string, string>) {
		onpick(payer);
		text = '';
		isOpen = false;
	}
	function onkeydown(event: KeyboardEvent) {
		if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
			event.preventDefault();
			if (!isOpen) void look();
			else at = Math.max(0, Math.min(found.length - 1, at + (event.key === 'ArrowDown' ? 1 : -1)));
		} else if (event.key === 'Enter' && isOpen && found[at]) {
			event.preventDefault();
			pick(found[at]!);
		} else if (event.key === 'Escape') isOpen = false;
	}
</script>

<div class="relative">
	<label class="legend" for={id}>{label}</label>
	{#if value}<p class="mb-1"><b>{value.name}</b> <span class="quiet">{value.mail}</span></p>{/if}
	<input
		{id}
		role="combobox"
		aria-expanded={isOpen}
		aria-controls="{id}-list"
		aria-activedescendant={isOpen && found[at] ? `${id}-${at}` : undefined}
		autocomplete="off"
		placeholder={value ? 'Choose another: name, mail or number' : 'Name, mail or number'}
		bind:value={text}
		oninput={look}
		onfocus={() => !value && look()}
		onblur={() => setTimeout(() => (isOpen = false), 150)}
		{onkeydown}
	/>
	<ul
		id="{id}-list"
		role="listbox"
		aria-label="Payers"
		class="border-rule-strong bg-sheet absolute z-20 w-full border {isOpen ? '' : 'hidden'}"
	>
		{#each found as one, n (one.id)}
			<!-- svelte-ignore a11y_click_events_have_key_events (the box above moves among them by its keys) -->
			<li
				id="{id}-{n}"
				role="option"
				aria-selected={n === at}
				class="cursor-pointer px-2 py-1"
				class:bg-brass-soft={n === at}
				onclick={() => pick(one)}
			>
				{one.name} <span class="quiet">{one.mail}</span>
			</li>
		{:else}<li role="option" aria-selected="false" class="quiet px-2 py-1">
				No payer fits. Add one under Payers.
			</li>{/each}
	</ul>
</div>
