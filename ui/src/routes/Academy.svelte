<script lang="ts">
  import AcademyMonths from '../lib/charts/AcademyMonths.svelte'
  import Whiskers from '../lib/charts/Whiskers.svelte'
  import Together from '../lib/plan/Together.svelte'
  import Segments from '../lib/parts/Segments.svelte'
  import { createQuery, keepPreviousData } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { between, share } from '../lib/progress/ledger'
  import { DAYS, day, longDay, spoken } from '../lib/parts/words'

  let days = $state(30)
  let allUnseen = $state(false)
  const FEW = 12
  const page = createQuery(() => ({
    queryKey: ['academy', days],
    queryFn: () => unwrap(client.GET('/api/academy', { params: { query: { days } } })),
    placeholderData: keepPreviousData,
  }))
  const data = $derived(page.data)
  const taught = $derived(data?.common.filter((one) => one.teaching) ?? [])
  /** What nobody shares is folded away; it was missed now and then. */
  let allFaults = $state(false)
  const shared = $derived(data?.common.filter((one) => one.sharing.length > 0) ?? [])
  const faults = $derived(allFaults || shared.length === 0 ? (data?.common ?? []) : shared)
  const unseen = $derived(allUnseen ? (data?.unseen ?? []) : (data?.unseen.slice(0, FEW) ?? []))
  const ago = (iso: string) => Math.round((Date.now() - Date.parse(`${iso}T12:00:00`)) / 86_400_000)
  const differing = $derived(data?.checkpoints.filter((one) => one.same < 1).slice(0, 8) ?? [])
  const compared = $derived(
    data?.agreement
      ? [{ ...data.agreement, of: 'All' }, ...(data.pairs.length > 1 ? data.pairs : []), ...data.ways].map((one) => ({
          name: one.of,
          value: one.same,
          low: one.same_interval[0] ?? 0,
          high: one.same_interval[1] ?? 1,
          words: `${share(one.same)} the same (${between(one.same_interval)}) of ${one.judged} verdicts`,
        }))
      : [],
  )
  const two = (value: number) => value.toFixed(2).replace('-', '−')
</script>

{#snippet agreed(one: Schemas['AgreementOut'], name: string)}
  <tr class="rule-b">
    <td class="py-1.5 pr-3">{name}</td>
    <td class="num px-2 text-right">{one.judged}</td>
    <td class="num px-2 text-right whitespace-nowrap"
      ><b>{share(one.same)}</b> <span class="soft">({between(one.same_interval)})</span></td
    >
    <td class="num px-2 text-right whitespace-nowrap"
      >{#if one.alpha != null && one.interval}<b>{two(one.alpha)}</b>
        <span class="soft">({two(one.interval[0] ?? -1)} to {two(one.interval[1] ?? 1)})</span>{:else}<span
          class="soft"
          title="All verdicts are alike, so that nothing tells agreement from chance">cannot be told</span
        >{/if}</td
    >
  </tr>
{/snippet}
<div class="mx-auto max-w-6xl px-4 py-6">
  {#if page.error}<p class="notice bad" role="alert">{page.error.message}</p>{/if}
  {#if data}
    <div class="flex flex-wrap items-baseline gap-x-4">
      <h1>Academy</h1>
      <span class="flex items-center gap-2 text-sm"
        >the last <Segments
          label="Days"
          choices={DAYS}
          value={String(days)}
          changed={(next) => (days = Number(next))}
          testid="days"
        /></span
      >
      <span class="soft text-sm"
        ><span class="num">{data.filmed}</span> of <span class="num">{data.students}</span> students judged,
        <span class="num">{data.reps}</span> reps</span
      >
    </div>

    <h2 class="mt-5">Common faults</h2>
    {#if taught.length}<p class="notice mt-1" data-testid="teaching">
        <b>Possible teaching issue:</b>
        {taught.map((one) => `${spoken(one.fault)} (${one.technique_name})`).join(', ')}
        {taught.length === 1 ? 'is' : 'are'} shared by most who were judged. Look at how it is taught before you correct each
        one.
      </p>{/if}
    {#if data.common.length === 0}
      <p class="soft mt-1">
        {data.students === 0
          ? 'No students yet.'
          : `Nothing was missed in a finished review in these days. Take a longer time, or finish a review on the bench.`}
      </p>
    {:else}
      <div class="overflow-x-auto">
        <table class="mt-2 w-full text-sm" style="border-top: 2px solid var(--ink)">
          <thead
            ><tr class="rule-b soft text-left text-xs"
              ><th class="py-1 font-normal">fault</th><th class="px-2 font-normal">students who share it</th><th
                class="px-2 text-right font-normal">of those judged</th
              ><th class="px-2 text-right font-normal">reps missed</th></tr
            ></thead
          >
          <tbody>
            {#each faults as one (one.technique + one.fault)}
              <tr class="rule-b" data-common={one.fault} data-teaching={one.teaching}>
                <td class="py-1.5 pr-3"
                  ><span class="font-semibold">{spoken(one.fault)}</span>{#if one.safety}<span
                      class="ml-2 text-xs font-semibold"
                      style="color: var(--alarm)">safety</span
                    >{/if}{#if one.teaching}<span class="ml-2 text-xs font-semibold" style="color: var(--partner)"
                      >▲ Teaching issue?</span
                    >{/if}<br /><span class="soft">{one.technique_name} · {one.ask}</span></td
                >
                <td class="px-2"
                  >{#each one.sharing.slice(0, 6) as who, i (who.id)}{i ? ', ' : ''}<a
                      class="underline"
                      href="#/students/{who.id}">{who.name}</a
                    >{:else}<span class="soft">none often enough</span>{/each}{one.sharing.length > 6
                    ? ` and ${one.sharing.length - 6} more`
                    : ''}</td
                >
                <td class="num px-2 text-right whitespace-nowrap"
                  ><b>{one.sharing.length} of {one.asked}</b><br /><span
                    class="soft"
                    title="The share of students with its 95 % interval"
                    >{one.asked ? `${share(one.sharing.length / one.asked)} (${between(one.interval)})` : ''}</span
                  ></td
                >
                <td class="num px-2 text-right">{one.misses}/{one.exposures}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
      {#if shared.length > 0 && shared.length < data.common.length}<button
          class="mt-1 text-sm underline"
          onclick={() => (allFaults = !allFaults)}
          >{allFaults
            ? 'only those that are shared'
            : `${data.common.length - shared.length} more, missed now and then`}</button
        >{/if}
      <p class="soft mt-1 text-xs">
        A student shares a fault who missed it in at least {data.sharing_rule.least_misses} reps and in {share(
          data.sharing_rule.least_rate,
        )} of them or more; judged is who had {data.sharing_rule.least_misses} reps or more. ▲ where at least {data
          .sharing_rule.least_students} students share it and they are more than {share(data.sharing_rule.over_share)}.
        Conventions.
      </p>
    {/if}

    <h2 class="mt-8">Not seen for {data.unseen_days} days</h2>
    {#if data.unseen.length === 0}<p class="soft mt-1">
        {data.students ? 'Everybody was filmed.' : 'No students yet.'}
      </p>{:else}
      <ul
        class="mt-2 grid gap-x-8 text-sm sm:grid-cols-2"
        style="border-top: 2px solid var(--ink)"
        aria-label="Not seen"
      >
        {#each unseen as who (who.id)}<li class="rule-b flex items-baseline gap-3 py-1.5">
            <a class="font-semibold" href="#/students/{who.id}">{who.name}</a><span class="soft ml-auto"
              >{#if who.last}last filmed <span class="num">{day(who.last)}</span>, {ago(who.last)} days ago{:else}never
                filmed{/if}</span
            >
          </li>{/each}
      </ul>
      {#if data.unseen.length > FEW}<button class="mt-1 text-sm underline" onclick={() => (allUnseen = !allUnseen)}
          >{allUnseen ? 'fewer' : `${data.unseen.length - FEW} more`}</button
        >{/if}
    {/if}

    <AcademyMonths />

    <Together />

    <h2 class="mt-8">Do coaches agree?</h2>
    {#if data.agreement}
      <div class="mt-2">
        <Whiskers
          rows={compared}
          label="How often two coaches gave the same verdict"
          from={0}
          to={1}
          ticks={[0, 0.25, 0.5, 0.75, 1]}
          format={(value) => share(value)}
          testid="agreement-chart"
        />
      </div>
      <table class="mt-2 w-full text-sm" style="border-top: 2px solid var(--ink)" aria-label="Agreement">
        <thead
          ><tr class="rule-b soft text-left text-xs"
            ><th class="py-1 font-normal"></th><th class="px-2 text-right font-normal">verdicts</th><th
              class="px-2 text-right font-normal">the same</th
            ><th class="px-2 text-right font-normal">beyond chance (α)</th></tr
          ></thead
        >
        <tbody>
          {@render agreed(
            data.agreement,
            data.pairs.length === 1 ? `All second opinions: ${data.pairs[0]?.of}` : 'All second opinions',
          )}
          {#each data.pairs.length > 1 ? data.pairs : [] as one (one.of)}{@render agreed(one, one.of)}{/each}
          {#each data.ways as one (one.of)}{@render agreed(one, one.of)}{/each}
        </tbody>
      </table>
      {#if differing.length}
        <p class="mt-3 text-sm"><b>Where they differ most</b></p>
        <ul class="mt-1 grid gap-x-8 text-sm sm:grid-cols-2" aria-label="Where they differ most">
          {#each differing as one (one.of)}<li class="rule-b flex items-baseline gap-3 py-1.5">
              <span>{one.of}</span><span class="num ml-auto whitespace-nowrap"
                >{Math.round((1 - one.same) * one.judged)} of {one.judged}</span
              >
            </li>{/each}
        </ul>
      {/if}
      <p class="soft mt-1 text-xs">
        α is 1 for full agreement and 0 for what chance alone gives (Krippendorff’s); in brackets 95 % intervals, wide
        where few reps were judged twice.
      </p>
    {:else}<p class="soft mt-1">
        No rep was judged by two coaches yet. A second coach judges a finished review without seeing its verdicts; how
        far the two agree is told here.
      </p>{/if}
    {#if data.offers.length}
      <h3 class="mt-4 font-semibold">Give a second opinion</h3>
      <ul class="mt-1 text-sm" style="border-top: 1px solid var(--rule)" aria-label="Reviews to judge again">
        {#each data.offers as offer (offer.review)}<li class="rule-b flex flex-wrap items-baseline gap-x-4 py-1.5">
            <a class="font-semibold underline" href="#/second/{offer.review}">{offer.clip_name}</a><span
              >{offer.student}</span
            ><span class="num soft">{longDay(offer.filmed_on)}</span><span class="soft ml-auto"
              >{offer.begun ? 'begun' : `judged by ${offer.first}`}</span
            >
          </li>{/each}
      </ul>
    {/if}
  {:else if page.isPending}<p class="soft">Opening…</p>{/if}
</div>
