<script lang="ts">
	import { Field, Sheet, Workings } from '$lib/ui';
	const { data, form } = $props();
	const values = $derived((form as { values?: Record<string, string> } | null)?.values);
	const errors = $derived(
		((form as { errors?: Record<string, string> } | null)?.errors ?? {}) as Record<string, string>
	);
	const of = (name: 'code' | 'name' | 'about' | 'unit') => values?.[name] ?? data.item?.[name] ?? '';
	const tax = $derived(values?.tax ?? (data.item ? `${data.item.category} ${data.item.rate}` : ''));
	const taxes = $derived.by(() => {
		const list = data.taxes.map((one) => ({
			key: `${one.category} ${one.rate}`,
			name: `${one.name}${one.rate ? ` ${one.rate / 10_000} %` : ''}`
		}));
		if (tax && !list.some((one) => one.key === tax))
			list.push({ key: tax, name: tax.replace(/ (\d+)$/, (_, rate) => ` ${Number(rate) / 10_000} %`) });
		return list;
	});
	const priceOf = (currency: string) =>
		values?.[`price_${currency}`] ?? data.item?.prices.find((one) => one.currency === currency)?.price ?? '';
</script>

<Sheet
	title={data.item ? data.item.name : 'Add a thing'}
	about="What it is called, what it costs in each currency, how it is taxed"
>
	<form method="post" enctype="multipart/form-data" class="max-w-[640px]">
		<div class="grid grid-cols-2 gap-x-4">
			<Field label="Name" wrong={errors.name}
				>{#snippet children(attributes)}<input {...attributes} name="name" value={of('name')} />{/snippet}</Field
			>
			<Field
				label="Code"
				wrong={errors.code}
				help={{ what: 'Typed into a line, it fills the line in.', looks: 'ROSIN-A' }}
				>{#snippet children(attributes)}<input {...attributes} name="code" value={of('code')} />{/snippet}</Field
			>
			<Field
				label="Unit"
				wrong={errors.unit}
				help={{ what: 'Of one quantity.', looks: 'hour, set, month; empty for pieces' }}
				>{#snippet children(attributes)}<input {...attributes} name="unit" value={of('unit')} />{/snippet}</Field
			>
			<Field label="Tax" wrong={errors.rate ?? errors.category}
				>{#snippet children(attributes)}<select {...attributes} name="tax" value={tax || taxes[0]?.key}
						>{#each taxes as one (one.key)}<option value={one.key}>{one.name}</option>{/each}</select
					>{/snippet}</Field
			>
			<Field label="Prices are" wrong={errors.pricing}
				>{#snippet children(attributes)}<select
						{...attributes}
						name="pricing"
						value={values?.pricing ?? data.item?.pricing ?? data.pricing}
						><option value="with tax">with tax</option><option value="without tax">without tax</option></select
					>{/snippet}</Field
			>
			<Field
				label="Stock"
				wrong={errors.stock}
				help={{ what: 'So many are left to sell by pay links; empty where it is not counted.' }}
				>{#snippet children(attributes)}<input
						{...attributes}
						name="stock"
						inputmode="numeric"
						value={values?.stock ?? data.item?.stock ?? ''}
					/>{/snippet}</Field
			>
		</div>
		<fieldset class="mt-3">
			<legend class="legend">Price</legend>
			<div class="grid grid-cols-4 gap-2">
				{#each data.currencies as code (code)}<label
						><span class="quiet text-[12px]">{code}</span><input
							name="price_{code}"
							inputmode="decimal"
							class="n"
							value={priceOf(code)}
						/></label
					>{/each}
			</div>
			{#if errors.prices}<span class="wrong" role="alert">{errors.prices}</span>{/if}
		</fieldset>
		<Field label="About it, for payers" wrong={errors.about}
			>{#snippet children(attributes)}<textarea {...attributes} name="about" rows="2" value={of('about')}
				></textarea>{/snippet}</Field
		>
		<Field label="Picture" wrong={errors.picture} hint="PNG, JPEG or WebP, at most 90 kB"
			>{#snippet children(attributes)}<input
					{...attributes}
					type="file"
					name="file"
					accept="image/png,image/jpeg,image/webp"
				/>{/snippet}</Field
		>
		{#if data.item?.picture}<p class="mt-2 flex items-center gap-3">
				<img src={data.item.picture} alt="" class="h-14 w-14 object-cover" /><label
					class="inline-flex items-center gap-1"
					><input type="checkbox" name="keepPicture" value={data.item.picture} checked /> keep this picture</label
				>
			</p>{/if}
		<div class="mt-4 flex gap-2">
			<button class="button main" data-save>{data.item ? 'Save' : 'Add to the price list'}</button><a
				class="button"
				href="/bill/prices">Leave it as it was</a
			>
		</div>
	</form>
</Sheet>
<Workings />
