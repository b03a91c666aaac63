<script lang="ts">
	import type { Snippet } from 'svelte';
	import Sheet from './Sheet.svelte';
	import SubNav from './SubNav.svelte';

	interface Props {
		connection: {
			id: string;
			name: string;
			mode: 'test' | 'live';
			accountId: string;
			accountName: string;
			accountCountry: string;
			settlement: string;
			missing: number;
			oldUntil: number | null;
		};
		/** what there is to choose at it, if anything */
		chooser?: { what: string };
		acts?: Snippet;
		children: Snippet;
	}
	/** The sheet of one connection: whose account, in which mode, and its pages. */
	const { connection: c, chooser, acts, children }: Props = $props();
	const pages = $derived([
		{ name: 'Overview', href: `/connect/connections/${c.id}` },
		{ name: 'Rate card', href: `/connect/connections/${c.id}/rates` },
		{ name: 'Settings', href: `/connect/connections/${c.id}/settings` },
		{
			name: 'Notifications',
			href: `/connect/connections/${c.id}/notifications`,
			mark: c.missing ? `${c.missing} missing` : undefined
		},
		...(chooser
			? [
					{
						name: chooser.what === 'account' ? 'Account' : 'Tier',
						href: `/connect/connections/${c.id}/account`
					}
				]
			: []),
		{
			name: 'Keys and disconnecting',
			href: `/connect/connections/${c.id}/keys`,
			mark: c.oldUntil ? 'rotating' : undefined
		}
	]);
</script>

<Sheet
	title={c.name}
	about="{c.accountName}, account {c.accountId}, {c.accountCountry}, settles in {c.settlement}, {c.mode}"
	test={c.mode === 'test'}
	{acts}
>
	<SubNav label="Pages of {c.name}" {pages} />
	{@render children()}
</Sheet>
