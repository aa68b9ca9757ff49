<script lang="ts">
  import Combobox from '../parts/Combobox.svelte'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../api/client'

  /** What is asked differently of a student, and asking something differently. */
  let { student }: { student: string } = $props()
  const queries = useQueryClient()
  let open = $state(false)
  const path = $derived({ params: { path: { student_id: student } } })
  const rows = createQuery(() => ({
    queryKey: ['adaptations', student],
    queryFn: () => unwrap(client.GET('/api/students/{student_id}/adaptations', path)),
  }))
  const techniques = createQuery(() => ({
    queryKey: ['techniques'],
    queryFn: () => unwrap(client.GET('/api/techniques')),
    enabled: open,
  }))
  let failure = $state('')
  const EMPTY = {
    technique: '',
    checkpoint: '',
    action: 'off' as 'off' | 'relaxed' | 'replaced',
    low: '',
    high: '',
    ask: '',
    look: '',
    at: '',
    reason: '',
  }
  let form = $state({ ...EMPTY })
  const technique = $derived(techniques.data?.find((one) => one.id === form.technique))
  const checkpoints = $derived(technique?.checkpoints ?? [])
  const asked = $derived(checkpoints.find((checkpoint) => checkpoint.id === form.checkpoint))
  const number = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')))

  async function done(answer: Promise<Schemas['AdaptationOut'][]>): Promise<void> {
    try {
      queries.setQueryData(['adaptations', student], await answer)
      failure = ''
      open = false
      form = { ...EMPTY }
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    }
  }

  function add(event: Event): void {
    event.preventDefault()
    const within: [number | null, number | null] | null =
      form.action === 'relaxed' ? [number(form.low), number(form.high)] : null
    const instead =
      form.action === 'replaced' ? { kind: 'seen', measure: { at: form.at }, ask: form.ask, look_for: form.look } : null
    const body = {
      technique: form.technique,
      checkpoint: form.checkpoint,
      action: form.action,
      within,
      instead,
      reason: form.reason,
    }
    void done(unwrap(client.POST('/api/students/{student_id}/adaptations', { ...path, body })))
  }

  function end(id: string): void {
    void done(
      unwrap(
        client.DELETE('/api/students/{student_id}/adaptations/{adaptation_id}', {
          params: { path: { student_id: student, adaptation_id: id } },
        }),
      ),
    )
  }
</script>

<section aria-label="Adaptations" class="mt-8">
  <div class="flex items-baseline gap-4">
    <h2>Adaptations</h2>
    <button class="text-sm underline" aria-expanded={open} onclick={() => (open = !open)}
      >{open ? 'Cancel' : 'Adapt a checkpoint'}</button
    >
  </div>
  {#if rows.data?.length === 0 && !open}<p class="soft text-sm">
      None: this student is asked every checkpoint as it is written. Short limbs, a stiff back or an old injury are
      reasons to relax one or switch it off.
    </p>{/if}
  {#if failure}<p class="notice bad text-sm" role="alert">{failure}</p>{/if}
  <ul class="text-sm">
    {#each rows.data ?? [] as row (row.id)}
      <li class="rule-b flex flex-wrap items-baseline gap-x-4 py-1.5" data-adaptation={row.checkpoint}>
        <b class="font-semibold">{row.ask}</b>
        <span class="soft">{row.technique_name}</span>
        <span class="num">{row.words}</span>
        <span>“{row.reason}”</span>
        <button class="ml-auto underline" onclick={() => end(row.id)}>Ask again</button>
      </li>
    {/each}
  </ul>
  {#if open}
    <form class="mt-2 flex flex-wrap items-end gap-3 text-sm" onsubmit={add}>
      <div>
        <span aria-hidden="true">Technique</span><Combobox
          label="Technique"
          items={(techniques.data ?? []).map((one) => ({ value: one.id, label: one.name, also: one.aliases }))}
          value={form.technique}
          changed={(id) => ((form.technique = id), (form.checkpoint = ''))}
          required
          testid="adapt-technique"
        />
      </div>
      <div>
        <span aria-hidden="true">Checkpoint</span><Combobox
          label="Checkpoint"
          items={checkpoints.map((one) => ({ value: one.id, label: one.ask }))}
          value={form.checkpoint}
          changed={(id) => (form.checkpoint = id)}
          disabled={!form.technique}
          required
          testid="adapt-checkpoint"
          width="w-72"
        />
      </div>
      <label
        >What changes<br />
        <select class="field" bind:value={form.action}>
          <option value="off">not asked</option>
          <option value="relaxed" disabled={!asked || asked.by_eye}>another range</option>
          <option value="replaced">something else, told by eye</option>
        </select>
      </label>
      {#if form.action === 'relaxed'}
        <label
          >From{asked?.unit ? ` (${asked.unit})` : ''}<br /><input
            class="field num w-20"
            inputmode="decimal"
            bind:value={form.low}
            placeholder="no limit"
          /></label
        >
        <label
          >To<br /><input
            class="field num w-20"
            inputmode="decimal"
            bind:value={form.high}
            placeholder="no limit"
          /></label
        >
      {/if}
      {#if form.action === 'replaced'}
        <label class="grow"
          >Asked instead<br /><input
            class="field w-full"
            maxlength="200"
            bind:value={form.ask}
            required
            placeholder="The hand reaches the shin"
          /></label
        >
        <label class="grow"
          >What to look for<br /><input
            class="field w-full"
            maxlength="300"
            bind:value={form.look}
            required
            placeholder="Fingers past the knee"
          /></label
        >
        <label
          >When<br />
          <select class="field" bind:value={form.at} required>
            <option value="" disabled>choose</option>
            {#each technique?.events ?? [] as event (event.key)}<option value={event.key}
                >{event.key.replaceAll('_', ' ')}</option
              >{/each}
          </select>
        </label>
      {/if}
      <label class="grow"
        >Reason<br /><input
          class="field w-full"
          maxlength="400"
          bind:value={form.reason}
          required
          placeholder="an old injury"
        /></label
      >
      <button class="button main" disabled={!form.technique || !form.checkpoint}>Save</button>
    </form>
  {/if}
</section>
