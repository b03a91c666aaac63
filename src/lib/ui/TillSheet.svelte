<script lang="ts">
	import type { Snippet } from 'svelte';
	import Sheet from './Sheet.svelte';
	import SubNav from './SubNav.svelte';

	interface Props {
		till: { slug: string; name: string; mode: 'test' | 'live' };
		/** what this page of the till is about */
		title?: string;
		about?: string;
		acts?: Snippet;
		children: Snippet;
	}
	/** A sheet of one till: its pages below its title. */
	const { till, title, about, acts, children }: Props = $props();
	const at = $derived(`/accept/tills/${till.slug}`);
	const pages = $derived([
		{ name: 'Line-up', href: at },
		{ name: 'As a payer', href: `${at}/ask` },
		{ name: 'Situations', href: `${at}/situations` },
		{ name: 'Replay', href: `${at}/replay` },
		{ name: 'Trial payment', href: `${at}/trial` },
		{ name: 'Copy and files', href: `${at}/file` },
		{ name: 'History', href: `${at}/history` },
		{ name: 'Settings', href: `${at}/settings` }
	]);
</script>

<Sheet title={title ?? till.name} {about} test={till.mode === 'test'} {acts}>
	<SubNav {pages} label="Pages of {till.name}" />
	{@render children()}
</Sheet>
