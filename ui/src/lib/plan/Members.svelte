<script lang="ts">
  import { SvelteSet } from 'svelte/reactivity'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import Dialog from '../parts/Dialog.svelte'

  /** Who belongs to a weekly class. */
  interface Props {
    weekly: Schemas['WeeklyOut']
    people: readonly Schemas['MemberOut'][]
    done: () => void
  }
  let { weekly, people, done }: Props = $props()
  const asking = new Asking()
  let open = $state(true)
  let search = $state('')
  // svelte-ignore state_referenced_locally
  const chosen = new SvelteSet(weekly.members)
  const shown = $derived(people.filter((one) => one.name.toLowerCase().includes(search.trim().toLowerCase())))
  const save = async () => {
    const path = { params: { path: { weekly_id: weekly.id } } }
    const body = { students: [...chosen] }
    if (await asking.run(() => unwrap(client.PUT('/api/classes/weekly/{weekly_id}/members', { ...path, body })))) done()
  }
</script>

<Dialog bind:open title="Members of “{weekly.name}”" closed={done}>
  <input class="field mt-3 w-full" bind:value={search} placeholder="Search…" aria-label="Search students" />
  <ul class="mt-2 grid max-h-96 grid-cols-2 overflow-y-auto">
    {#each shown as one (one.id)}
      <li>
        <label class="flex items-center gap-2 py-1"
          ><input
            type="checkbox"
            checked={chosen.has(one.id)}
            onchange={(event) => (event.currentTarget.checked ? chosen.add(one.id) : chosen.delete(one.id))}
          />{one.name}{#if one.is_child}<span class="soft text-sm">child</span>{/if}</label
        >
      </li>
    {/each}
  </ul>
  {#if people.length === 0}<p class="notice mt-2">There are no students yet. Add them on the page “Students”.</p>{/if}
  {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
  <div class="mt-4 flex items-center justify-end gap-3">
    <span class="soft mr-auto text-sm">{chosen.size} chosen</span>
    <button class="button" onclick={done}>Cancel</button><button class="button main" onclick={save}>Save</button>
  </div>
</Dialog>
