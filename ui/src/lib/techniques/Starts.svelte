<script lang="ts">
  import { useQueryClient } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../api/client'
  import { RESISTANCE, entries } from '../parts/labels'
  import { spoken } from '../parts/words'

  /** The positions that a technique is drilled from. The academy's own, made from frames on the bench, can be renamed and deleted. */
  let { lesson }: { lesson: Schemas['LessonOut'] } = $props()
  const queries = useQueryClient()
  let editing = $state<string | null>(null)
  let form = $state<Schemas['StartIn']>({ says: '', resistance: 'none', resists_from: null })
  let failure = $state('')

  function edit(start: Schemas['StartOut']): void {
    editing = start.id
    form = { says: start.says, resistance: start.resistance, resists_from: start.resists_from }
  }
  async function done(work: Promise<Schemas['LessonOut']>): Promise<void> {
    failure = ''
    try {
      queries.setQueryData(['lesson', lesson.id], await work)
      editing = null
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    }
  }
  const path = (name: string) => ({ path: { technique_id: lesson.id, name } })
  const save = (name: string) =>
    done(unwrap(client.PUT('/api/techniques/{technique_id}/starts/{name}', { params: path(name), body: form })))
  const remove = (name: string) =>
    done(unwrap(client.DELETE('/api/techniques/{technique_id}/starts/{name}', { params: path(name) })))
</script>

<h2 class="mt-6">Drilled from</h2>
{#if failure}<p class="notice bad text-sm" role="alert">{failure}</p>{/if}
<ul class="mt-1 text-sm" style="border-top: 2px solid var(--ink)" data-testid="lesson-starts">
  {#each lesson.starts as start (start.id)}
    <li class="rule-b py-1.5">
      {#if editing === start.id}
        <form
          class="flex flex-wrap items-center gap-2"
          onsubmit={(event) => {
            event.preventDefault()
            void save(start.id)
          }}
        >
          <input class="field w-64" maxlength="120" required aria-label="Name of the start" bind:value={form.says} />
          <select class="field" aria-label="Resistance" bind:value={form.resistance}
            >{#each entries(RESISTANCE) as [key, word] (key)}<option value={key}>{word}</option>{/each}</select
          >
          <select class="field" aria-label="Resists from" bind:value={form.resists_from}
            ><option value={null}>from the beginning</option>{#each lesson.events as event (event.key)}<option
                value={event.key}>from “{spoken(event.key)}” on</option
              >{/each}</select
          >
          <button class="chip">Save</button>
          <button type="button" class="underline" onclick={() => (editing = null)}>Cancel</button>
        </form>
      {:else}
        <b class="font-semibold">{start.says}</b>
        <span class="soft"
          >begins at {spoken(start.phase)}{#if start.resistance !== 'none'}; the partner resists: {RESISTANCE[
              start.resistance
            ]}{start.resists_from ? `, from “${spoken(start.resists_from)}” on` : ''}{/if}</span
        >
        {#if start.own}
          <span class="soft">· made on the bench</span>
          <button class="ml-2 underline" onclick={() => edit(start)}>Rename</button>
          <button class="ml-1 underline" onclick={() => void remove(start.id)}>Delete</button>
        {/if}
      {/if}
    </li>
  {/each}
</ul>

<style>
  .chip {
    border: 1px solid var(--soft);
    padding: 0.1rem 0.6rem;
  }
</style>
