<script lang="ts">
  import { onDestroy, onMount, type Snippet } from 'svelte'
  import type { Schemas } from '../api/client'
  import { Asking } from '../api/asking.svelte'
  import Segments from '../parts/Segments.svelte'
  import AskedOne from './AskedOne.svelte'
  import type { EyeDoor } from './door'
  import { say } from './say'
  import { EyeSet, sendKept, waitingToBeSent, type Sent } from './set.svelte'
  import { KINDS, offBy, type Kind } from './words'

  /** Sets for the eye, and what one's own eye is like: of a coach, or of a student by their own page. */
  interface Props {
    door: EyeDoor
    /** What the reader is to know before the first set. */
    intro: Snippet
    /** Techniques that a set may be of together, such as those that a student works on. */
    own?: readonly string[]
  }
  let { door, intro, own = [] }: Props = $props()
  const MINUTES = [
    ['2', '2 min'],
    ['3', '3 min'],
    ['5', '5 min'],
  ] as const
  const LOOK_MS = 4000
  const OWN = 'own'
  const asking = new Asking()
  const reading = new Asking()
  let eye = $state.raw<Schemas['EyeOut'] | null>(null)
  let minutes = $state<(typeof MINUTES)[number][0]>('3')
  let technique = $state('')
  let kind = $state<Kind | ''>('')
  let set = $state.raw<EyeSet | null>(null)
  let empty = $state(false)
  /** What is kept is counted anew after each answer, and after each time that it was sent. */
  const keptAfter = (..._changed: unknown[]): number => waitingToBeSent(door)
  /** What came of answers that were kept for a while. */
  let before = $state.raw<readonly Sent[]>([])
  const sent = $derived([...before, ...(set?.late ?? [])])
  /** How often it was tried to send what could not be sent. */
  let tried = $state(0)
  const unsent = $derived(keptAfter(set?.came, tried))
  const theirs = $derived(own.filter((id) => eye?.techniques.some((one) => one.id === id)))

  const read = () => reading.run(async () => void (eye = await door.read()))
  async function begin(): Promise<void> {
    empty = false
    const techniques = technique === OWN ? theirs : technique ? [technique] : []
    await asking.run(async () => {
      const made = await door.makeSet({
        minutes: Number(minutes),
        techniques: [...techniques],
        kinds: kind ? [kind] : [],
      })
      set?.close()
      before = []
      set = made.asked.length ? new EyeSet(made.asked, door) : null
      empty = made.asked.length === 0
      void set?.fetch()
    })
    await read()
  }
  async function end(): Promise<void> {
    set?.close()
    before = sent
    set = null
    await send()
  }
  /** Send what could not be sent; where the server is still away it stays kept. */
  async function send(): Promise<void> {
    try {
      const found = await sendKept(door)
      if (set) set.told(found)
      else before = [...before, ...found]
    } catch {
      // The line on the page says what is still kept.
    }
    tried += 1
    await read()
  }
  onMount(() => {
    void (waitingToBeSent(door) ? send() : read())
    // Films are made while one looks.
    const looking = setInterval(() => {
      if (eye?.waiting && (!set || set.isOver)) void read()
    }, LOOK_MS)
    return () => clearInterval(looking)
  })
  // What the page says is read anew when a set is over.
  $effect(() => {
    if (set?.isOver) void read()
  })
  onDestroy(() => set?.close())
</script>

<svelte:window ononline={() => void send()} />
{#if set && !set.isOver}
  <div class="flex max-w-3xl items-baseline gap-3">
    <h1 class="sr-only">{say('Train the eye')}</h1>
    <button class="ml-auto text-sm underline" onclick={() => void end()}>{say('End this set')}</button>
  </div>
  <AskedOne {set} />
{:else}
  <h1>{say('Train the eye')}</h1>
  {#if set}
    <div class="band mt-3 p-4" data-testid="eye-done" role="status">
      <p class="text-lg">
        <b class="num">{say('{number} of {all}', { number: set.hits, all: set.asked.length })}</b>
        {say('right.')}
      </p>
      <p class="soft text-sm">{say('What was wrong comes back soonest, on new films.')}</p>
    </div>
  {:else}
    {@render intro()}
  {/if}
  {#if reading.failure && !eye}<p class="notice bad mt-3" role="alert">{reading.failure}</p>{/if}
  {#if unsent > 0}<p class="notice mt-3" role="status">
      {unsent === 1
        ? say('One answer is kept in this browser until the server can be reached.')
        : say('{count} answers are kept in this browser until the server can be reached.', { count: unsent })}
      <button class="underline" onclick={() => void send()}>{say('Send now')}</button>
    </p>{/if}
  {#if sent.length}<div class="band mt-3 p-3 text-sm" role="status" data-testid="eye-sent">
      {sent.length === 1
        ? say('One answer that was kept is sent now:')
        : say('{count} answers that were kept are sent now:', { count: sent.length })}
      <ul class="mt-1">
        {#each sent as { key, came } (key)}<li>
            {came.scored.hit ? '✓' : '✗'}
            {offBy(came.scored)} <span class="soft">{came.truth.says}</span>
          </li>{/each}
      </ul>
    </div>{/if}
  {#if eye}
    <form
      class="mt-4 flex flex-wrap items-end gap-x-5 gap-y-3"
      onsubmit={(event) => (event.preventDefault(), void begin())}
    >
      <div>
        <span class="block text-sm">{say('How long')}</span>
        <Segments label={say('How long')} choices={MINUTES} value={minutes} changed={(next) => (minutes = next)} />
      </div>
      <label class="text-sm max-sm:w-full"
        >{say('Techniques')}<select class="field block max-w-56 max-sm:w-full max-sm:max-w-full" bind:value={technique}>
          <option value="">{say('all of them')}</option>
          {#if theirs.length}<option value={OWN}>{say('what I work on')}</option>{/if}
          {#each eye.techniques as one (one.id)}<option value={one.id}
              >{one.films ? one.name : say('{name} (no film yet)', { name: one.name })}</option
            >{/each}
        </select></label
      >
      <label class="text-sm max-sm:w-full"
        >{say('Question')}<select class="field block max-sm:w-full" bind:value={kind}>
          <option value="">{say('all kinds')}</option>
          {#each Object.entries(KINDS) as [one, name] (one)}<option value={one}>{say(name)}</option>{/each}
        </select></label
      >
      <button class="button main">{set ? say('Another set') : say('Begin')}</button>
    </form>
    <p class="soft mt-2 text-sm" data-testid="eye-pool">
      {eye.due === 0
        ? say('Nothing is due.')
        : eye.due === 1
          ? say('1 question is due.')
          : say('{count} questions are due.', { count: eye.due })}
      {eye.films === 0 ? say('There are no films yet.') : say('{count} films are ready.', { count: eye.films })}
      {#if eye.waiting > 0}{eye.waiting === 1
          ? say('One more is on the list; it is made when the server has nothing else to do.')
          : say('{count} more are on the list; they are made when the server has nothing else to do.', {
              count: eye.waiting,
            })}{/if}
    </p>
    {#if empty}<p class="notice mt-2" role="status">
        {say(
          'There is no film for this yet that you have not seen. It is on the list now: making one takes some seconds. Begin again in a moment, or choose all techniques.',
        )}
      </p>{/if}
    {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
    {#await import('./OwnEye.svelte') then { default: OwnEye }}
      <div class="mt-6"><OwnEye {eye} {door} changed={read} /></div>
    {/await}
  {/if}
{/if}
