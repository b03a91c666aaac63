<script lang="ts">
	import type { Working } from '$lib/core/workings';
	const { working }: { working: Working } = $props();
</script>

<h2>{working.title}</h2>
{#if working.about}<p class="quiet mb-2">{working.about}</p>{/if}
<ol>
	{#each working.steps as step, i (i)}
		<li class="step" class:total={step.total}>
			<span
				class={step.mark ?? ''}
				aria-label={step.mark === 'no' ? 'fails' : step.mark === 'yes' ? 'holds' : undefined}
				>{step.mark === 'no' ? '✕' : step.mark === 'yes' ? '✓' : ''}</span
			>
			<span>
				<span class:font-semibold={!!step.mark}>{step.title}</span>
				{#if step.sub}<span class="sub">{step.sub}</span>{/if}
				{#each step.reasons ?? [] as reason, n (n)}<span class="sub"
						>{reason.text}
						{#if reason.link}<a class="why inline-flex min-h-[24px] items-center text-[12px]" href={reason.link.href}
								>{reason.link.label}</a
							>{/if}
						{#if reason.under?.length}<details class="mt-0.5">
								<summary class="min-h-[24px] cursor-pointer py-1">For this reason too</summary>
								{#each reason.under as one, k (k)}<span class="block pl-3">{one}</span>{/each}
							</details>{/if}</span
					>{/each}
				{#if step.link}<a class="why" href={step.link.href}>{step.link.label}</a>{/if}
			</span>
			<span class="sum">{step.sum ?? ''}</span>
		</li>
	{/each}
</ol>
{#if working.end}<p class="note {working.end.tone} mt-3">{working.end.text}</p>{/if}
