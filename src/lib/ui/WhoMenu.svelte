<script lang="ts">
	import { DropdownMenu } from 'bits-ui';

	interface Props {
		user: { name: string; mail: string; role: string };
		theme: 'auto' | 'light' | 'dark';
		onkeys: () => void;
	}
	const { user, theme, onkeys }: Props = $props();
	// svelte-ignore state_referenced_locally (the choice made here is newer than what the page came with)
	let chosen = $state<string>(theme);
	const initials = $derived(
		user.name
			.split(/\s+/)
			.map((part) => part[0])
			.join('')
			.slice(0, 2)
			.toUpperCase()
	);

	function setTheme(value: string) {
		chosen = value;
		document.documentElement.dataset.theme = value;
		// kept by the browser itself and at once: whoever goes to another page in the same moment has chosen, too
		document.cookie = `purse_theme=${value}; path=/; max-age=31536000; samesite=lax`;
	}
	const THEMES = [
		{ value: 'auto', name: 'As the system' },
		{ value: 'light', name: 'Light' },
		{ value: 'dark', name: 'Dark' }
	];
	const item =
		'flex cursor-pointer items-center gap-2 rounded-[3px] px-2 py-1.5 outline-none data-[highlighted]:bg-brass-soft';
</script>

<form method="post" action="/sign-out" id="sign-out"></form>
<DropdownMenu.Root>
	<DropdownMenu.Trigger class="who" aria-label="{user.name}: theme, keys, sign out">{initials}</DropdownMenu.Trigger>
	<DropdownMenu.Portal>
		<DropdownMenu.Content
			class="bg-sheet border-rule-strong z-50 w-56 rounded-[3px] border p-1 shadow-lg"
			align="end"
			sideOffset={6}
		>
			<p class="px-2 py-1"><b>{user.name}</b><span class="sub">{user.mail}, {user.role}</span></p>
			<DropdownMenu.RadioGroup value={chosen} onValueChange={setTheme} class="border-rule border-t pt-1">
				{#each THEMES as { value, name } (value)}
					<DropdownMenu.RadioItem {value} class={item}>
						{#snippet children({ checked })}<span class="w-4">{checked ? '•' : ''}</span>{name}{/snippet}
					</DropdownMenu.RadioItem>
				{/each}
			</DropdownMenu.RadioGroup>
			<div class="border-rule mt-1 border-t pt-1">
				<DropdownMenu.Item class={item} onSelect={onkeys}
					><span class="w-4"></span>Keys <span class="mono ml-auto">?</span></DropdownMenu.Item
				>
				<DropdownMenu.Item class={item} onSelect={() => document.querySelector<HTMLFormElement>('#sign-out')?.submit()}
					><span class="w-4"></span>Sign out</DropdownMenu.Item
				>
			</div>
		</DropdownMenu.Content>
	</DropdownMenu.Portal>
</DropdownMenu.Root>
