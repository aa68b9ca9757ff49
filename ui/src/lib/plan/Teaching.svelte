<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../api/client'
  import Combobox from '../parts/Combobox.svelte'

  /** What a class is taught: techniques, each with a layer and a start. What is next is proposed. */
  interface Props {
    lesson: string
    teach: readonly Schemas['Teach'][]
    children: boolean
    may: boolean
    changed: (teach: Schemas['Teach'][]) => void
  }
  let { lesson, teach, children, may, changed }: Props = $props()
  const teachable = createQuery(() => ({
    queryKey: ['teachable', lesson],
    queryFn: () =>
      unwrap(client.GET('/api/classes/{lesson_id}/teachable', { params: { path: { lesson_id: lesson } } })),
  }))
  const known = $derived(new Map((teachable.data ?? []).map((one) => [one.technique, one])))
  const offered = $derived((teachable.data ?? []).filter((one) => !(children && one.grown_ups)))
  function add(technique: string): void {
    const one = known.get(technique)
    if (!one || teach.some((had) => had.technique === technique)) return
    changed([...teach, { technique, layer: one.next.layer ?? '', start: one.next.start ?? '' }])
  }
  const change = (at: number, more: Partial<Schemas['Teach']>) =>
    changed(teach.map((one, place) => (place === at ? { ...one, ...more } : one)))
  const value = (event: Event) => (event.currentTarget as HTMLSelectElement).value
</script>

<section aria-label="What is taught">
  <h2>What is taught</h2>
  {#each teach as one, i (one.technique)}
    {@const found = known.get(one.technique)}
    <div class="rule-b flex flex-wrap items-baseline gap-x-3 gap-y-1 py-1.5" data-teach={one.technique}>
      <b>{found?.name ?? one.technique.replaceAll('-', ' ')}</b>
      {#if found}
        {#if found.layers.length}<label
            ><span class="sr-only">Layer</span><select
              class="field text-sm"
              disabled={!may}
              value={one.layer}
              onchange={(event) => change(i, { layer: value(event) })}
            >
              <option value="">all of it</option>
              {#each found.layers as layer (layer.id)}<option value={layer.id}>{layer.name}</option>{/each}
            </select></label
          >{/if}
        {#if found.starts.length}<label
            ><span class="sr-only">Start</span><select
              class="field max-w-72 text-sm"
              disabled={!may}
              value={one.start}
              onchange={(event) => change(i, { start: value(event) })}
            >
              <option value="">from the beginning</option>
              {#each found.starts as start (start.id)}<option value={start.id}>{start.says}</option>{/each}
            </select></label
          >{/if}
        {#if found.next.coming && !found.next.is_new}<span class="soft text-sm"
            >{found.next.holding} of {found.next.coming} hold the last layer: the same again from another start</span
          >{/if}
      {/if}
      {#if may}<button
          class="ml-auto text-sm underline print:hidden"
          onclick={() => changed(teach.filter((_, place) => place !== i))}>Remove</button
        >{/if}
    </div>
  {/each}
  {#if may && teachable.data}
    <div class="mt-2 print:hidden">
      <Combobox
        label="Technique to teach"
        items={offered.map((one) => ({
          value: one.technique,
          label: one.name + (one.last_taught ? ` (last on ${one.last_taught})` : ''),
        }))}
        value=""
        changed={add}
        placeholder="Add a technique…"
        testid="teach"
        width="w-72"
      />
    </div>
  {/if}
</section>
