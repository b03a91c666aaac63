<script lang="ts">
	import { enhance } from '$app/forms';
	import { afterNavigate } from '$app/navigation';
	import { page } from '$app/state';
	import type { IndexGroup } from './types';

	/** The objects of a section, one line of state each; `/` goes to the filter, `j` and `k` move. */
	const { label, groups }: { label: string; groups: IndexGroup[] } = $props();
	let filter = $state('');
	/** addresses of which some items are filters: such a list by itself is current only without one */
	const filters = $derived(
		new Set(
			groups.flatMap((group) =>
				group.items.filter((item) => item.href.includes('?')).map((item) => item.href.split('?')[0]!)
			)
		)
	);
	/** Whether an address is shown: one with a filter only by that very filter, wherever its page begins. */
	function here(href: string): boolean {
		const { pathname, searchParams } = page.url;
		const [path, query] = href.split('?');
		if (query === undefined)
			return pathname === href ? !filters.has(path!) || ![...searchParams].length : pathname.startsWith(`${href}/`);
		const [own, shown] = [new URLSearchParams(query), new URLSearchParams(searchParams)];
		shown.delete('before');
		own.sort();
		shown.sort();
		return pathname === path && own.toString() === shown.toString();
	}
	const current = $derived(
		groups
			.flatMap((group) => group.items.map((item) => item.href))
			.filter(here)
			.sort((a, b) => b.length - a.length)[0]
	);
	const currentName = $derived(
		groups.flatMap((group) => group.items).find((item) => item.href === current)?.name ?? ''
	);
	/** groups that were opened or closed by hand */
	const toggled = $state<Record<string, boolean>>({});
	/** on a phone the index is a drawer: closed again once something was chosen */
	let isOpen = $state(false);
	afterNavigate(() => (isOpen = false));
	const shown = $derived(
		groups
			.map((group) => ({
				...group,
				// what is not well stands first
				items: group.items
					.filter(
						(item) => item.add || `${item.name} ${item.state ?? ''}`.toLowerCase().includes(filter.trim().toLowerCase())
					)
					.sort((a, b) => Number(!!b.bad) - Number(!!a.bad)),
				isOpen: !!filter.trim() || (toggled[group.name] ?? !group.folded)
			}))
			.filter((group) => group.items.length)
	);
</script>

<nav class="index" aria-label={label}>
	<button type="button" class="drawer" aria-expanded={isOpen} onclick={() => (isOpen = !isOpen)}
		><span>{label}{currentName && currentName !== label ? `: ${currentName}` : ''}</span><span aria-hidden="true"
			>{isOpen ? '▴' : '▾'}</span
		></button
	>
	<div class="within" class:open={isOpen}>
		<input
			data-index-filter
			type="search"
			placeholder="Filter  ( / )"
			aria-label="Filter {label.toLowerCase()}"
			bind:value={filter}
			class="!py-1 text-[12px]"
		/>
		{#each shown as group, at (at)}
			<h2>
				<button
					type="button"
					class="fold"
					aria-expanded={group.isOpen}
					onclick={() => (toggled[group.name] = !group.isOpen)}
					>{group.name}<span aria-hidden="true">{group.isOpen ? '' : ` · ${group.items.length}`}</span></button
				>
			</h2>
			{#each group.items.filter((item) => group.isOpen || item.bad || item.href === current) as item (item.href)}
				<a
					class="item"
					class:add={item.add}
					href={item.href}
					aria-current={item.href === current ? 'page' : undefined}
					data-index-item
				>
					<b
						>{item.add ? `+ ${item.name}` : item.name}{#if item.tag}<span>{item.tag}</span>{/if}</b
					>
					{#if item.state}<span class:text-clay={item.bad}>{item.state}</span>{/if}
				</a>
				{#if item.removes && item.href === current}<form
						method="post"
						action="{item.href.split('?')[0]}?/remove"
						use:enhance
					>
						<input type="hidden" name="id" value={item.removes} />
						<button class="why ml-2 text-[12px]">Remove this view</button>
					</form>{/if}
			{/each}
		{:else}
			<p class="quiet p-2">Nothing here is called “{filter}”.</p>
		{/each}
	</div>
</nav>
