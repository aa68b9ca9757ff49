<script lang="ts">
  import { useQueryClient } from '@tanstack/svelte-query'
  import { SvelteSet } from 'svelte/reactivity'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import Dialog from '../parts/Dialog.svelte'
  import { tell } from '../parts/told'

  /** Afterwards: who came, and what was done. */
  interface Props {
    data: Schemas['ClassOut']
    done: (next: Schemas['ClassOut'] | null) => void
  }
  let { data, done }: Props = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  let open = $state(true)
  // svelte-ignore state_referenced_locally
  const came = new SvelteSet(data.coming.filter((one) => one.came !== false).map((one) => one.id))
  // svelte-ignore state_referenced_locally
  const units = new SvelteSet(data.units.map((unit) => unit.key))
  const put = (set: SvelteSet<string>, key: string, on: boolean) => void (on ? set.add(key) : set.delete(key))
  const book = () =>
    asking.run(async () => {
      const next = await unwrap(
        client.POST('/api/classes/{lesson_id}/book', {
          params: { path: { lesson_id: data.id } },
          body: { came: [...came], done: [...units] },
        }),
      )
      tell('Booked.', 'What was taught and the practice of everyone present is written down.')
      await queries.invalidateQueries()
      done(next)
    })
</script>

<Dialog bind:open title="Book “{data.name}”" closed={() => done(null)}>
  <h3 class="mt-3 font-semibold">Who came</h3>
  <ul class="columns-2 text-sm">
    {#each data.coming as one (one.id)}
      <li>
        <label class="flex min-h-8 items-center gap-2 py-0.5"
          ><input
            type="checkbox"
            checked={came.has(one.id)}
            onchange={(event) => put(came, one.id, event.currentTarget.checked)}
          />{one.name}</label
        >
      </li>
    {/each}
  </ul>
  <h3 class="mt-3 font-semibold">What was done</h3>
  <ul class="text-sm">
    {#each data.units.filter((unit) => unit.kind !== 'break') as unit (unit.key)}
      <li>
        <label class="flex min-h-8 items-center gap-2 py-0.5"
          ><input
            type="checkbox"
            checked={units.has(unit.key)}
            onchange={(event) => put(units, unit.key, event.currentTarget.checked)}
          />{unit.name}</label
        >
      </li>
    {/each}
  </ul>
  {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
  <div class="mt-4 flex justify-end gap-3">
    <button class="button" onclick={() => done(null)}>Cancel</button><button class="button main" onclick={book}
      >Book it</button
    >
  </div>
</Dialog>
