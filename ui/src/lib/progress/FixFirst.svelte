<script lang="ts">
  import Combobox from '../parts/Combobox.svelte'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import { longDay, spoken } from '../parts/words'

  /** What to fix first over the whole history, why, and the coach's own choice. */
  interface Props {
    student: string
    /** Every fault of the ledger, to choose from. */
    faults: readonly Schemas['FaultOut'][]
  }
  let { student, faults }: Props = $props()
  const queries = useQueryClient()
  const key = $derived(['student', student, 'fix-first'])
  const path = $derived({ params: { path: { student_id: student } } })
  const found = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/students/{student_id}/fix-first', path)),
  }))
  let choosing = $state(false)
  let first = $state('')
  let second = $state('')
  let why = $state('')
  const asking = new Asking()
  const nameOf = (one: { technique: string; fault: string }) => `${one.technique}/${one.fault}`
  const choices = $derived(
    faults.map((one) => ({ value: nameOf(one), label: `${spoken(one.fault)} (${one.technique_name})` })),
  )
  const kinds = $derived(new Set(found.data?.links.map((link) => link.decides)))

  const put = (choices: { technique: string; fault: string }[]) =>
    asking.run(async () => {
      queries.setQueryData(
        key,
        await unwrap(
          client.PUT('/api/students/{student_id}/fix-first', {
            ...path,
            body: { choices, why: choices.length ? why : '' },
          }),
        ),
      )
      choosing = false
      why = ''
    })
  function keep(event: Event): void {
    event.preventDefault()
    void put(
      [first, second]
        .filter(Boolean)
        .flatMap((name) => faults.find((one) => nameOf(one) === name) ?? [])
        .map(({ technique, fault }) => ({ technique, fault })),
    )
  }
  function choose(): void {
    choosing = !choosing
    const [a, b] = found.data?.first ?? []
    first = a ? nameOf(a) : ''
    second = b ? nameOf(b) : ''
  }
</script>

{#if found.data && faults.length}
  {@const { first: fixes, recommended, links, chosen_on } = found.data}
  <section class="mt-5" aria-label="Fix first">
    <div class="flex flex-wrap items-baseline gap-x-4">
      <h2>Fix first</h2>
      {#if chosen_on}<span class="soft text-sm">your choice of <span class="num">{longDay(chosen_on)}</span></span>{/if}
      <button class="text-sm underline" aria-expanded={choosing} onclick={choose}
        >{choosing ? 'Cancel' : 'Choose others'}</button
      >
      {#if chosen_on}<button class="text-sm underline" onclick={() => void put([])}>As recommended</button>{/if}
    </div>
    <ol style="border-top: 2px solid var(--ink)">
      {#each fixes as one, i (nameOf(one))}
        <li class="rule-b grid grid-cols-[1.5rem_1fr] py-2" data-fix={one.fault}>
          <span class="num text-lg font-semibold">{i + 1}</span>
          <div>
            <p>
              <b>{spoken(one.fault)}</b>
              <span class="soft text-sm">{one.technique_name}: {one.ask}</span>{#if one.safety}<span
                  class="ml-2 text-xs font-semibold"
                  style="color: var(--alarm)">safety</span
                >{/if}<span class="ml-2">“{one.cue}”</span>
            </p>
            <p class="soft text-sm">
              {one.reason}.{#if one.seen_on_floor}{' '}Seen on the floor {one.seen_on_floor === 1
                  ? 'once'
                  : `${one.seen_on_floor} times`} in the last 30 days.{/if}{#if one.why}
                <span style="color: var(--ink)">Chosen: “{one.why}”</span>{/if}
            </p>
          </div>
        </li>
      {:else}<li class="soft py-2">
          Nothing to fix now: every fault has cleared or was not judged in the last 12 weeks.
        </li>{/each}
    </ol>
    {#if chosen_on && recommended.length}<p class="soft mt-1 text-sm">
        Recommended instead: {recommended.map((one) => `${spoken(one.fault)} (${one.technique_name})`).join(', then ')}.
      </p>{/if}
    {#if asking.failure}<p class="notice bad mt-1 text-sm" role="alert">{asking.failure}</p>{/if}
    {#if choosing}
      <form class="mt-2 flex flex-wrap items-end gap-3 text-sm" onsubmit={keep}>
        <div>
          <span aria-hidden="true">First</span><Combobox
            label="First"
            items={choices}
            value={first}
            changed={(one) => (first = one)}
            required
            testid="fix-first"
            width="w-72"
          />
        </div>
        <div>
          <span aria-hidden="true">Then</span><Combobox
            label="Then"
            items={[{ value: '', label: 'nothing else' }, ...choices.filter((one) => one.value !== first)]}
            value={second}
            changed={(one) => (second = one)}
            placeholder="nothing else"
            testid="fix-second"
            width="w-72"
          />
        </div>
        <label class="grow"
          >Why<br /><input
            class="field w-full"
            maxlength="400"
            bind:value={why}
            required
            placeholder="the grading is in two weeks"
          /></label
        >
        <button class="button main">Save</button>
      </form>
    {/if}
    {#if links.length}
      <p class="soft mt-2 text-sm">
        One leads to the other{kinds.has(false) ? '; from half on the effect gives way to its cause' : ''}:
        {#each links as link, i (link.cause + link.effect)}{i ? '; ' : ' '}<span
            class="whitespace-nowrap"
            data-link="{link.cause}/{link.effect}">{spoken(link.cause)} → {spoken(link.effect)}</span
          >, together in <b class="num">{link.together} of {link.of}</b>{/each}.
      </p>
    {/if}
  </section>
{/if}
