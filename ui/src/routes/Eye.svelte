<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { onDestroy } from 'svelte'
  import { client, unwrap } from '../lib/api/client'
  import { Asking } from '../lib/api/asking.svelte'
  import AskedOne from '../lib/eye/AskedOne.svelte'
  import OwnEye from '../lib/eye/OwnEye.svelte'
  import { EyeSet, sendKept, waitingToBeSent, type Answered } from '../lib/eye/set.svelte'
  import { KINDS, offBy, type Kind } from '../lib/eye/words'
  import Segments from '../lib/parts/Segments.svelte'

  const MINUTES = [
    ['2', '2 min'],
    ['3', '3 min'],
    ['5', '5 min'],
  ] as const
  const queries = useQueryClient()
  const asking = new Asking()
  const page = createQuery(() => ({
    queryKey: ['eye'],
    queryFn: () => unwrap(client.GET('/api/eye')),
    // Films are made while one looks.
    refetchInterval: (query: { state: { data?: { waiting: number } | undefined } }) =>
      query.state.data?.waiting ? 4000 : false,
  }))
  const eye = $derived(page.data)
  let minutes = $state<(typeof MINUTES)[number][0]>('3')
  let technique = $state('')
  let kind = $state<Kind | ''>('')
  let set = $state.raw<EyeSet | null>(null)
  let empty = $state(false)
  /** What is kept is counted anew after each answer, and after each time that it was sent. */
  const keptAfter = (..._changed: unknown[]): number => waitingToBeSent()
  /** What came of answers that were kept for a while. */
  let sent = $state.raw<readonly Answered[]>([])
  /** How often it was tried to send what could not be sent. */
  let tried = $state(0)
  const unsent = $derived(keptAfter(set?.came, tried))

  async function begin(): Promise<void> {
    empty = false
    await asking.run(async () => {
      const body = { minutes: Number(minutes), techniques: technique ? [technique] : [], kinds: kind ? [kind] : [] }
      const made = await unwrap(client.POST('/api/eye/sets', { body }))
      set?.close()
      set = made.asked.length ? new EyeSet(made.asked) : null
      empty = made.asked.length === 0
      void set?.fetch()
    })
    await queries.invalidateQueries({ queryKey: ['eye'] })
  }
  async function end(): Promise<void> {
    set?.close()
    set = null
    await send()
  }
  /** Send what could not be sent; where the server is still away it stays kept. */
  async function send(): Promise<void> {
    try {
      sent = [...sent, ...(await sendKept())]
    } catch {
      // The line on the page says what is still kept.
    }
    tried += 1
    await queries.invalidateQueries({ queryKey: ['eye'] })
  }
  if (waitingToBeSent()) void send()
  onDestroy(() => set?.close())
</script>

<svelte:window ononline={() => void send()} />
<div class="mx-auto max-w-4xl px-4 py-5">
  {#if set && !set.isOver}
    <div class="flex items-baseline gap-3">
      <h1 class="sr-only">Train the eye</h1>
      <button class="ml-auto text-sm underline" onclick={() => void end()}>End this set</button>
    </div>
    <AskedOne {set} />
  {:else}
    <h1>Train the eye</h1>
    {#if set}
      <div class="band mt-3 p-4" data-testid="eye-done" role="status">
        <p class="text-lg"><b class="num">{set.hits} of {set.asked.length}</b> right.</p>
        <p class="soft text-sm">What was wrong comes back soonest, on new films.</p>
      </div>
    {:else}
      <p class="soft mt-1 max-w-2xl">
        Short sets on film whose truth is known: mark an event, say an angle, find what was missed. Afterwards you see
        what is so, and how far off you were. It is film of the studio’s figures; no student is in it.
      </p>
      <p class="soft mt-1 max-w-2xl text-sm">
        Watching is not practising: throws, falls, kicks and holds can injure. Try them only under a teacher’s eye and
        by the rules of your hall.
      </p>
    {/if}
    {#if page.error}<p class="notice bad mt-3" role="alert">{page.error.message}</p>{/if}
    {#if unsent > 0}<p class="notice mt-3" role="status">
        {unsent === 1 ? 'One answer is' : `${unsent} answers are`} kept in this browser until the server can be reached.
        <button class="underline" onclick={() => void send()}>Send now</button>
      </p>{/if}
    {#if sent.length}<div class="band mt-3 p-3 text-sm" role="status" data-testid="eye-sent">
        {sent.length === 1 ? 'One answer that was kept is' : `${sent.length} answers that were kept are`} sent now:
        <ul class="mt-1">
          {#each sent as one, i (i)}<li>
              {one.scored.hit ? '✓' : '✗'}
              {offBy(one.scored)} <span class="soft">{one.truth.says}</span>
            </li>{/each}
        </ul>
      </div>{/if}
    {#if eye}
      <form
        class="mt-4 flex flex-wrap items-end gap-x-5 gap-y-3"
        onsubmit={(event) => (event.preventDefault(), void begin())}
      >
        <div>
          <span class="block text-sm">How long</span>
          <Segments label="How long" choices={MINUTES} value={minutes} changed={(next) => (minutes = next)} />
        </div>
        <label class="text-sm"
          >Technique<select class="field block" bind:value={technique}>
            <option value="">all of them</option>
            {#each eye.techniques as one (one.id)}<option value={one.id}
                >{one.name}{one.films ? '' : ' (no film yet)'}</option
              >{/each}
          </select></label
        >
        <label class="text-sm"
          >Question<select class="field block" bind:value={kind}>
            <option value="">all kinds</option>
            {#each Object.entries(KINDS) as [one, name] (one)}<option value={one}>{name}</option>{/each}
          </select></label
        >
        <button class="button main">{set ? 'Another set' : 'Begin'}</button>
      </form>
      <p class="soft mt-2 text-sm" data-testid="eye-pool">
        {eye.due === 0 ? 'Nothing is due.' : `${eye.due} ${eye.due === 1 ? 'question is' : 'questions are'} due.`}
        {eye.films === 0 ? 'There are no films yet.' : `${eye.films} films are ready.`}
        {#if eye.waiting > 0}{eye.waiting === 1 ? 'One more is' : `${eye.waiting} more are`} on the list; the worker makes
          them while it has nothing else to do.{/if}
      </p>
      {#if empty}<p class="notice mt-2" role="status">
          There is no film for this yet that you have not seen. It is on the list now: a film takes the worker some
          seconds. Begin again in a moment, or choose all techniques.
        </p>{/if}
      {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
      <div class="mt-6"><OwnEye {eye} /></div>
    {/if}
  {/if}
</div>
