<script lang="ts">
	import Bold from '@lucide/svelte/icons/bold';
	import Italic from '@lucide/svelte/icons/italic';
	import Link from '@lucide/svelte/icons/link';
	import List from '@lucide/svelte/icons/list';
	import ListOrdered from '@lucide/svelte/icons/list-ordered';
	import type { Editor } from '@tiptap/core';
	import { onMount, untrack } from 'svelte';

	interface Props {
		/** HTML; what is stored is reduced to a few harmless tags by the server */
		value: string;
		name: string;
		label: string;
		id?: string;
	}
	let { value = $bindable(), name, label, id }: Props = $props();
	let place = $state<HTMLDivElement>();
	let editor: Editor | undefined;
	let on = $state({ bold: false, italic: false, list: false, numbers: false, link: false });
	let linking = $state(false);
	let href = $state('');

	function begin({ Editor, StarterKit }: typeof import('./richEditor')) {
		editor = new Editor({
			element: place,
			injectCSS: false,
			content: untrack(() => value),
			extensions: [
				StarterKit.configure({
					heading: false,
					codeBlock: false,
					code: false,
					blockquote: false,
					horizontalRule: false,
					strike: false,
					underline: false,
					link: { openOnClick: false, protocols: ['https', 'mailto', 'tel'], defaultProtocol: 'https' }
				})
			],
			editorProps: {
				attributes: { role: 'textbox', 'aria-multiline': 'true', 'aria-label': label, class: 'rich-box' }
			},
			onUpdate: ({ editor: own }) => (value = own.isEmpty ? '' : own.getHTML()),
			onTransaction: ({ editor: own }) =>
				(on = {
					bold: own.isActive('bold'),
					italic: own.isActive('italic'),
					list: own.isActive('bulletList'),
					numbers: own.isActive('orderedList'),
					link: own.isActive('link')
				})
		});
	}
	onMount(() => {
		let isGone = false;
		void import('./richEditor').then((loaded) => {
			if (!isGone) begin(loaded);
		});
		return () => {
			isGone = true;
			editor?.destroy();
		};
	});

	function startLink() {
		href = String(editor?.getAttributes('link').href ?? '');
		linking = true;
	}
	function keepLink() {
		linking = false;
		const to = href.trim();
		const chain = editor?.chain().focus().extendMarkRange('link');
		if (!to) chain?.unsetLink().run();
		else {
			const whole = /^(https?:|mailto:|tel:)/.test(to) ? to : to.includes('@') ? `mailto:${to}` : `https://${to}`;
			if (editor?.state.selection.empty && !on.link)
				editor
					.chain()
					.focus()
					.insertContent(`<a href="${encodeURI(whole)}">${to.replace(/[<>&"]/g, '')}</a>`)
					.run();
			else chain?.setLink({ href: whole }).run();
		}
	}
</script>

<input type="hidden" {name} {value} />
<div class="border-rule-strong bg-sheet mt-0.5 border" {id}>
	<div class="border-rule flex gap-1 border-b p-1" role="toolbar" aria-label="Form of the {label.toLowerCase()}">
		{#snippet tool(text: string, active: boolean, act: () => void, Icon: typeof Bold)}
			<button
				type="button"
				class="cursor-pointer p-1"
				class:bg-brass-soft={active}
				aria-pressed={active}
				aria-label={text}
				title={text}
				onclick={act}><Icon size={15} /></button
			>
		{/snippet}
		{@render tool('Bold', on.bold, () => editor?.chain().focus().toggleBold().run(), Bold)}
		{@render tool('Italic', on.italic, () => editor?.chain().focus().toggleItalic().run(), Italic)}
		{@render tool('List', on.list, () => editor?.chain().focus().toggleBulletList().run(), List)}
		{@render tool('Numbered list', on.numbers, () => editor?.chain().focus().toggleOrderedList().run(), ListOrdered)}
		{@render tool('Link', on.link, startLink, Link)}
		{#if linking}
			<input
				class="!w-56 !py-0.5 text-[12px]"
				placeholder="pay.example/wren or a mail address"
				aria-label="Where the link leads"
				bind:value={href}
				onkeydown={(event) => {
					if (event.key !== 'Enter') return;
					event.preventDefault();
					keepLink();
				}}
			/>
			<button type="button" class="why text-[12px]" onclick={keepLink}>Set link</button>
		{/if}
	</div>
	<div bind:this={place} class="rich px-2 py-1.5"></div>
</div>

<style>
	div :global(.rich-box) {
		min-height: 66px;
		outline: none;
		white-space: pre-wrap;
	}
</style>
