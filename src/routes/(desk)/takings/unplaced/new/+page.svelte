<script lang="ts">
	import { DayInput, Field, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const values = $derived(
		((form as { values?: Record<string, string> } | null)?.values ?? {}) as Record<string, string>
	);
	const errors = $derived(
		((form as { errors?: Record<string, string> } | null)?.errors ?? {}) as Record<string, string>
	);
</script>

<Sheet
	title="Record money that came"
	about="As the statement tells it: with a right creditor reference it is placed by itself"
>
	{#if !data.methods.length}<p class="note clay mt-3">
			Add an offline method under Connect first: money is booked under one.
		</p>{/if}
	<form method="post" class="grid max-w-[560px] grid-cols-2 gap-x-4">
		<input type="hidden" name="key" value={data.key} />
		<Field label="Amount" wrong={errors.amount}
			>{#snippet children(attributes)}<input
					{...attributes}
					name="amount"
					inputmode="decimal"
					value={values.amount ?? ''}
				/>{/snippet}</Field
		>
		<Field label="Currency" wrong={errors.currency}
			>{#snippet children(attributes)}<input
					{...attributes}
					name="currency"
					maxlength="3"
					value={values.currency ?? data.currency}
				/>{/snippet}</Field
		>
		<Field label="Day" wrong={errors.day}
			>{#snippet children(attributes)}<DayInput
					{...attributes}
					name="day"
					value={values.day ?? data.today}
					locale={data.locale}
				/>{/snippet}</Field
		>
		<Field label="Came by" wrong={errors.method}
			>{#snippet children(attributes)}<select
					{...attributes}
					name="method"
					value={values.method ?? data.methods.find((one) => one.kind === 'credit-transfer')?.id ?? data.methods[0]?.id}
					>{#each data.methods as one (one.id)}<option value={one.id}>{one.name}</option>{/each}</select
				>{/snippet}</Field
		>
		<Field label="From" wrong={errors.from}
			>{#snippet children(attributes)}<input {...attributes} name="from" value={values.from ?? ''} />{/snippet}</Field
		>
		<Field label="Their account" wrong={errors.iban}
			>{#snippet children(attributes)}<input
					{...attributes}
					name="iban"
					class="mono"
					value={values.iban ?? ''}
				/>{/snippet}</Field
		>
		<div class="col-span-2">
			<Field label="It says" wrong={errors.text} hint="the reference or the text of the transfer"
				>{#snippet children(attributes)}<input {...attributes} name="text" value={values.text ?? ''} />{/snippet}</Field
			>
		</div>
		<div class="col-span-2 mt-3"><button class="button main" data-save>Record money</button></div>
	</form>
</Sheet>
<Workings />
