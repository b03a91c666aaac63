<script lang="ts">
	import { afterNavigate, goto, invalidate, invalidateAll } from '$app/navigation';
	import { navigating, page } from '$app/state';
	import { makeMargin } from '$lib/ui';
	import Find from '$lib/ui/Find.svelte';
	import Keys from '$lib/ui/Keys.svelte';
	import Purse from '$lib/ui/Purse.svelte';
	import WhoMenu from '$lib/ui/WhoMenu.svelte';
	import { onMount } from 'svelte';

	const { data, children } = $props();
	const margin = makeMargin();
	let finding = $state(false);
	let keys = $state(false);
	let awaitingSection = false;
	let missed: string[] = [];

	const SECTIONS = [
		{ href: '/connect', name: 'Connect', key: 'c' },
		{ href: '/accept', name: 'Accept', key: 'a' },
		{ href: '/bill', name: 'Bill', key: 'b' },
		{ href: '/takings', name: 'Takings', key: 't' },
		{ href: '/watch', name: 'Watch', key: 'w' }
	];

	afterNavigate(({ from, to }) => {
		if (from?.url.pathname !== to?.url.pathname) margin.rest();
		margin.help = undefined;
		for (const topic of [...new Set(missed)]) void invalidate(`live:${topic}`);
		missed = [];
	});

	onMount(() => {
		// from here on keys are heard; whoever drives the page can wait for it
		document.documentElement.dataset.ready = '';
		// on a phone the margin opens when a figure is pressed
		if (matchMedia('(max-width: 760px)').matches) margin.folded = true;
		// what has changed is loaded anew; after a pause in the stream, everything
		let source: EventSource;
		let lost = false;
		const open = () => {
			source = new EventSource(`/live?since=${data.liveSince}`);
			// a page on its way loads everything anyway, and loading anew meanwhile would call it off
			source.onmessage = ({ data: topic }) => void (navigating.to ? missed.push(topic) : invalidate(`live:${topic}`));
			source.onerror = () => (lost = true);
			source.onopen = () => {
				if (lost) void invalidateAll();
				lost = false;
			};
		};
		open();
		const close = () => source.close();
		addEventListener('pagehide', close);
		return () => {
			removeEventListener('pagehide', close);
			close();
		};
	});

	function moveInIndex(step: number) {
		const items = [...document.querySelectorAll<HTMLElement>('[data-row], [data-index-item]')];
		const rows = items.filter((item) => item.hasAttribute('data-row'));
		const list = rows.length ? rows : items;
		if (!list.length) return;
		const at = list.indexOf(document.activeElement as HTMLElement);
		const start = at < 0 ? list.findIndex((item) => item.hasAttribute('aria-current')) : at;
		list[Math.min(list.length - 1, Math.max(0, at < 0 && start < 0 ? 0 : start + step))]?.focus();
	}

	function onkeydown(event: KeyboardEvent) {
		if (event.key === 'k' && (event.ctrlKey || event.metaKey)) {
			event.preventDefault();
			finding = true;
			return;
		}
		const target = event.target as HTMLElement;
		if (event.ctrlKey || event.metaKey || event.altKey || finding || keys) return;
		if (target.closest('input, select, textarea, [contenteditable], [role=dialog]')) return;
		if (awaitingSection) {
			awaitingSection = false;
			const section = SECTIONS.find(({ key }) => key === event.key);
			if (section) void goto(section.href);
			else if (event.key === 'n') void goto('/needs-you');
			return;
		}
		const acts: Record<string, () => void> = {
			g: () => {
				awaitingSection = true;
				setTimeout(() => (awaitingSection = false), 1500);
			},
			'/': () => document.querySelector<HTMLElement>('[data-index-filter]')?.focus(),
			j: () => moveInIndex(1),
			k: () => moveInIndex(-1),
			w: () => (margin.folded = !margin.folded),
			p: () => document.querySelector<HTMLElement>('[data-as-payer]')?.click(),
			s: () => document.querySelector<HTMLElement>('[data-save]')?.click(),
			'?': () => (keys = true)
		};
		const act = acts[event.key];
		if (!act) return;
		event.preventDefault();
		act();
	}
</script>

<svelte:window {onkeydown} />

<div class="desk" class:folded={margin.folded}>
	<header class="flap">
		<a href="#sheet" class="sr-only focus:not-sr-only">Skip to the sheet</a>
		<a class="mark" href="/needs-you" aria-label="Just Purse: Needs you"><Purse />Just Purse</a>
		<nav aria-label="Sections">
			{#each SECTIONS as { href, name } (href)}
				<a {href} aria-current={page.url.pathname.startsWith(href) ? 'true' : undefined}>{name}</a>
			{/each}
		</nav>
		<button class="find" onclick={() => (finding = true)}
			><span>Find or do…</span><span class="mono">Ctrl K</span></button
		>
		<WhoMenu user={data.user} theme={data.theme} onkeys={() => (keys = true)} />
	</header>
	{@render children()}
</div>
<Find bind:open={finding} onkeys={() => (keys = true)} />
<Keys bind:open={keys} />
