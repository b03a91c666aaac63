<script lang="ts">
	import { dayPattern, formatDay, readDay } from '$lib/core/calendar';

	interface Props {
		name: string;
		/** `YYYY-MM-DD`, or what was typed and could not be read */
		value: string;
		/** the business's own locale, by which the day is shown and typed */
		locale: string;
		onday?: (day: string) => void;
		[attribute: string]: unknown;
	}
	/** A day, shown and typed as the business writes it, whatever the browser is set to. */
	const { name, value, locale, onday, ...attributes }: Props = $props();
	const shown = $derived(/^\d{4}-\d{2}-\d{2}$/.test(value) ? formatDay(value, locale) : value);
	let wrong = $state(false);

	function check(event: Event & { currentTarget: HTMLInputElement }) {
		const day = readDay(event.currentTarget.value, locale);
		wrong = !day && event.currentTarget.value.trim() !== '';
		if (!day) return;
		event.currentTarget.value = formatDay(day, locale);
		onday?.(day);
	}
</script>

<input
	{...attributes}
	{name}
	value={shown}
	inputmode="numeric"
	autocomplete="off"
	placeholder={dayPattern(locale)}
	aria-invalid={wrong || undefined}
	onchange={check}
/>
{#if wrong}<span class="wrong" role="alert">Write the day as {dayPattern(locale)}.</span>{/if}
