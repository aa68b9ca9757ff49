<script lang="ts">
  import { onMount } from 'svelte'
  import { newKey } from '../../own/queue'
  import type { Schemas } from '../api/client'
  import { floorQueue, keep, type FloorNote } from './floor'

  /** Notes from the floor: choose a student or a pair, then one tap. They are kept on the device without a connection. */
  interface Props {
    lesson?: string | null
    people: readonly { id: string; name: string }[]
    pairs?: readonly Schemas['PlannedPair'][]
    unit?: Schemas['Unit'] | undefined
  }
  let { lesson = null, people, pairs = [], unit }: Props = $props()
  let chosen = $state('')
  let words = $state('')
  let told = $state('')
  let problem = $state('')
  let waiting = $state(0)
  const count = async () => (waiting = await floorQueue().waiting())
  const flush = async () => {
    await floorQueue().flush()
    await count()
  }
  onMount(() => {
    void flush()
    const timer = setInterval(() => void flush(), 15_000)
    window.addEventListener('online', flush)
    return () => {
      clearInterval(timer)
      window.removeEventListener('online', flush)
    }
  })
  const students = $derived(chosen ? chosen.split(' ') : [])
  const nameOf = (id: string) => people.find((one) => one.id === id)?.name ?? ''
  async function note(more: Partial<FloorNote> & Pick<FloorNote, 'kind'>): Promise<void> {
    problem = ''
    const whom = students.map(nameOf).join(' and ')
    const answer = await keep({
      students,
      key: newKey(),
      at: new Date().toISOString(),
      lesson,
      unit: unit?.key ?? '',
      technique: '',
      checkpoint: '',
      words: '',
      ...more,
    })
    if (answer.kind === 'refused') problem = answer.why
    else
      told =
        answer.kind === 'sent' ? `Noted for ${whom}.` : `Kept here for ${whom}; it is sent once the connection is back.`
    words = answer.kind === 'refused' ? words : ''
    await count()
  }
</script>

<section class="mt-6 print:hidden" style="border-top: 2px solid var(--ink)" aria-label="From the floor">
  <h2 class="mt-2">Note something</h2>
  <div class="mt-1 flex flex-wrap gap-2">
    <select class="field py-2" bind:value={chosen} aria-label="Whom it is about">
      <option value="">whom…</option>
      {#each pairs as pair (pair.students[0])}<option value={pair.students.join(' ')}
          >{pair.students.map(nameOf).join(' and ')}</option
        >{/each}
      {#each people as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
    </select>
  </div>
  {#if chosen}
    {#each unit?.watch ?? [] as one (one.checkpoint)}
      <div class="mt-2 flex flex-wrap items-center gap-2">
        <span class="grow">{one.ask}</span>
        <button
          class="button py-2"
          onclick={() => note({ kind: 'good', technique: one.technique, checkpoint: one.checkpoint })}>Good</button
        >
        <button
          class="button py-2"
          onclick={() => note({ kind: 'fault', technique: one.technique, checkpoint: one.checkpoint })}>Fault</button
        >
      </div>
    {/each}
    <input
      class="field mt-2 w-full py-2"
      bind:value={words}
      maxlength="500"
      placeholder="A remark, or what was asked"
      aria-label="Remark"
    />
    <div class="mt-2 flex flex-wrap gap-2">
      <button class="button py-2" disabled={!words.trim()} onclick={() => note({ kind: 'remark', words })}
        >Remark</button
      >
      <button class="button py-2" disabled={!words.trim()} onclick={() => note({ kind: 'question', words })}
        >Was asked</button
      >
      <button
        class="button py-2"
        onclick={() =>
          note({
            kind: 'film',
            words,
            technique: unit?.technique ?? '',
            checkpoint: unit?.watch?.[0]?.checkpoint ?? '',
          })}>Film this</button
      >
    </div>
  {/if}
  {#if told}<p class="mt-2" role="status">{told}</p>{/if}
  {#if problem}<p class="notice bad mt-2" role="alert">{problem}</p>{/if}
  {#if waiting}<p class="soft mt-1 text-sm" data-testid="floor-waiting">
      <span class="num">{waiting}</span>
      {waiting === 1 ? 'note waits' : 'notes wait'} for the connection.
    </p>{/if}
</section>
