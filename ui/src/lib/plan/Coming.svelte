<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../api/client'
  import Combobox from '../parts/Combobox.svelte'

  /** Who comes to a class: a list to tick. */
  interface Props {
    coming: readonly Schemas['AttendingOut'][]
    may: boolean
    changed: (coming: string[]) => void
  }
  let { coming, may, changed }: Props = $props()
  const students = createQuery(() => ({
    queryKey: ['students'],
    queryFn: () => unwrap(client.GET('/api/students')),
  }))
  const ids = $derived(coming.map((one) => one.id))
  const others = $derived((students.data ?? []).filter((one) => !one.archived_at && !ids.includes(one.id)))
</script>

<section aria-label="Who comes">
  <h2>Who comes <span class="soft num text-sm">{coming.length}</span></h2>
  {#if coming.length === 0}<p class="soft text-sm">
      Nobody yet. Members of the weekly class stand here by themselves; later those who came the last time.
    </p>{/if}
  <ul class="mt-1 columns-2 text-sm">
    {#each coming as one (one.id)}
      <li>
        <label class="flex min-h-8 items-center gap-2 py-0.5"
          ><input
            type="checkbox"
            checked={one.came !== false}
            disabled={!may}
            onchange={() => changed(ids.filter((id) => id !== one.id))}
            class="print:hidden"
          />{one.name}{#if one.is_child}<span class="soft">child</span>{/if}</label
        >
      </li>
    {/each}
  </ul>
  {#if may}<div class="mt-1 print:hidden">
      <Combobox
        label="Student who comes"
        items={others.map((one) => ({ value: one.id, label: one.name }))}
        value=""
        changed={(id) => changed([...ids, id])}
        placeholder="Add a student…"
        testid="coming"
        width="w-full"
      />
    </div>{/if}
</section>
