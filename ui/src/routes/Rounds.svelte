<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap } from '../lib/api/client'
  import Combobox from '../lib/parts/Combobox.svelte'
  import { longDay } from '../lib/parts/words'
  import ClipRange from '../lib/plan/ClipRange.svelte'
  import RoundNumbers from '../lib/plan/RoundNumbers.svelte'

  /** Rounds and games: live ones are begun here; those of a long clip are read from the attempts that were cut in it. */
  const queries = useQueryClient()
  const asking = new Asking()
  const rounds = createQuery(() => ({ queryKey: ['rounds'], queryFn: () => unwrap(client.GET('/api/rounds')) }))
  const students = createQuery(() => ({ queryKey: ['students'], queryFn: () => unwrap(client.GET('/api/students')) }))
  const clips = createQuery(() => ({ queryKey: ['clips'], queryFn: () => unwrap(client.GET('/api/clips')) }))
  const people = $derived(
    (students.data ?? []).filter((one) => !one.archived_at).map((one) => ({ value: one.id, label: one.name })),
  )
  let form = $state({ objective: '', student: '', other: '', rounds: 3, seconds: 120, rest_s: 60, clip: '' })
  const clip = $derived((clips.data ?? []).find((one) => one.id === form.clip))
  let range = $state<[number, number]>([0, 1])
  function choose(id: string): void {
    form.clip = id
    range = [0, Math.max(1, (clip?.frames_done ?? 2) - 1)]
  }
  async function begin(event: Event): Promise<void> {
    event.preventDefault()
    await asking.run(async () => {
      const made = await unwrap(
        client.POST('/api/rounds', {
          body: {
            ...form,
            other: form.other || null,
            clip: clip ? clip.id : null,
            rounds: clip ? 1 : form.rounds,
            first_frame: clip ? range[0] : null,
            last_frame: clip ? range[1] : null,
          },
        }),
      )
      await queries.invalidateQueries({ queryKey: ['rounds'] })
      if (!clip) location.hash = `#/rounds/${made.id}`
    })
  }
</script>

<div class="mx-auto max-w-6xl px-5 py-6">
  <h1>Rounds and games</h1>
  <form class="mt-3 flex flex-wrap items-end gap-x-4 gap-y-2 text-sm" onsubmit={(event) => void begin(event)}>
    <label class="grow"
      >What scores<input
        class="field block w-full"
        bind:value={form.objective}
        maxlength="200"
        required
        placeholder="A step out of the circle"
      /></label
    >
    <span
      >One<Combobox
        label="One student"
        items={people}
        value={form.student}
        changed={(id) => (form.student = id)}
        testid="one"
        width="w-44"
        required
      /></span
    >
    <span
      >The other<Combobox
        label="The other student"
        items={people.filter((one) => one.value !== form.student)}
        value={form.other}
        changed={(id) => (form.other = id)}
        testid="other"
        width="w-44"
      /></span
    >
    <label
      >From<select
        class="field block h-[30px] max-w-60"
        value={form.clip}
        onchange={(event) => choose(event.currentTarget.value)}
      >
        <option value="">live, with a tally</option>
        {#each (clips.data ?? []).filter((one) => one.state === 'ready') as clip (clip.id)}<option value={clip.id}
            >the clip {clip.name}</option
          >{/each}
      </select></label
    >
    {#if !form.clip}
      <label>Rounds<input class="field num block w-16" type="number" min="1" max="60" bind:value={form.rounds} /></label
      >
      <label
        >Seconds<input class="field num block w-20" type="number" min="5" max="3600" bind:value={form.seconds} /></label
      >
      <label>Rest<input class="field num block w-20" type="number" min="0" max="3600" bind:value={form.rest_s} /></label
      >
    {/if}
    {#if clip}<ClipRange {clip} {range} changed={(next) => (range = next)} />{/if}
    <button class="button main" disabled={!form.student}>{form.clip ? 'Read the round' : 'Begin'}</button>
  </form>
  {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
  {#if rounds.data?.length === 0}<p class="notice mt-4">
      No round yet. Begin one live and tally it by tap, or choose a long clip in which you have cut the attempts.
    </p>{/if}
  {#each rounds.data ?? [] as one (one.id)}
    <section class="mt-6" data-round={one.objective}>
      <h2>
        {one.student_name}{one.other_name ? ` and ${one.other_name}` : ''}: {one.objective}
        <span class="soft num text-sm">{longDay(one.held_on)}, {Math.round(one.seconds)} s</span>
      </h2>
      <p class="text-sm">
        {#if one.clip}<a class="underline" href="#/bench/{one.clip}">{one.clip_name}</a>{:else}<a
            class="underline"
            href="#/rounds/{one.id}">Clock and tally</a
          >{/if}
      </p>
      <RoundNumbers round={one} />
    </section>
  {/each}
</div>
