<script lang="ts">
	import { counted } from '$lib/core/counted';
	import { formatDay } from '$lib/core/calendar';
	import type { Working } from '$lib/core/workings';
	import { Figure } from '$lib/ui';
	import { addressWith, type Ready } from './address';
	const { data }: { data: Ready } = $props();
	const { refunded, disputed, declined, late } = $derived(data.happened);

	const many = (count: number) => count.toLocaleString(data.locale);
	const about = $derived(
		`${formatDay(data.period.from, data.locale)} to ${formatDay(data.period.to, data.locale)}, whoever carried them.`
	);
	const lookAt = (look: string) => ({
		title: 'Single ones',
		link: { href: addressWith({ look, skip: '' }), label: 'Look at them' }
	});
	const refundedWorking = (): Working => ({
		title: 'Refunds',
		about: `${about} A payment that was refunded in parts counts once.`,
		steps: [
			...refunded.sums.map(({ currency, count, sum }) => ({
				title: `In ${currency}`,
				sub: counted(count, 'payment', data.locale),
				sum
			})),
			lookAt('refunded')
		]
	});
	const disputedWorking = (): Working => ({
		title: 'Disputes',
		about,
		steps: [...disputed.methods.map(({ name, count }) => ({ title: name, sum: many(count) })), lookAt('disputed')]
	});
	const declinedWorking = (): Working => ({
		title: 'Declined attempts',
		about: `${about} Nothing was captured; some processors charge for each.`,
		steps: [
			...declined.reasons
				.slice(0, 12)
				.map(({ name, reason, count }) => ({ title: reason || 'no reason was told', sub: name, sum: many(count) })),
			{ title: 'In all', sum: many(declined.count), total: true },
			lookAt('declined')
		]
	});
	const lateWorking = (): Working => ({
		title: 'From order to capture',
		about: `${many(late.told)} payments were ordered before they came, and are told with both times: credit transfers, mostly.`,
		steps: [
			...late.spans.map(({ name, count }) => ({ title: name, sum: many(count) })),
			...(late.count ? [lookAt('late')] : [])
		]
	});
</script>

<p class="mt-3" data-happened>
	Beside the payments, there were
	<Figure working={refundedWorking()}>{counted(refunded.count, 'refund', data.locale)}</Figure>,
	<Figure working={disputedWorking()}>{counted(disputed.count, 'dispute', data.locale)}</Figure>,
	<Figure working={declinedWorking()}>{counted(declined.count, 'declined attempt', data.locale)}</Figure
	>{#if late.told}, and
		<Figure working={lateWorking()}
			>{many(late.count)} that came {late.days} days or more after they were ordered</Figure
		>{/if}.
</p>
