<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../lib/api/client'
  import { findable, fits } from '../lib/techniques/words'

  const techniques = createQuery(() => ({
    queryKey: ['techniques'],
    queryFn: () => unwrap(client.GET('/api/techniques')),
  }))
  const FAMILIES: Record<string, string> = {
    throw: 'Throws and trips',
    'takedown entry': 'Takedown entries',
    sweep: 'Sweeps and reversals',
    'back take': 'Back takes',
    'guard work': 'Guard work',
    submission: 'Submissions',
    fall: 'Falls',
    kick: 'Kicks',
    position: 'Positions',
  }
  let search = $state('')
  const found = $derived((techniques.data ?? []).filter((technique) => fits(findable(technique), search)))
  const families = $derived(
    Object.keys(FAMILIES).filter((family) => found.some((technique) => technique.family === family)),
  )
</script>

<div class="mx-auto max-w-5xl px-5 py-6">
  <div class="flex flex-wrap items-center gap-4">
    <h1>Techniques</h1>
    <!-- svelte-ignore a11y_autofocus -->
    <input
      class="field ml-auto w-72"
      type="search"
      placeholder="Find by any name"
      aria-label="Find a technique"
      bind:value={search}
      autofocus
    />
    <a class="button" href="#/techniques/new/edit">Write or import one</a>
  </div>
  {#if techniques.error}<p class="notice bad mt-4" role="alert">{techniques.error.message}</p>{/if}
  {#if techniques.isSuccess && found.length === 0}
    <p class="notice mt-6">
      No technique is called “{search}”. Try another school’s name for it, or write it yourself.
    </p>
  {/if}
  <div class="mt-4 gap-x-10 md:columns-2">
    {#each families as family (family)}
      <section class="mb-5 break-inside-avoid">
        <h2 style="border-bottom: 2px solid var(--ink)" class="pb-1">{FAMILIES[family]}</h2>
        <ul>
          {#each found.filter((technique) => technique.family === family) as technique (technique.id)}
            <li class="rule-b">
              <a class="block py-1.5" href="#/techniques/{technique.id}">
                <span class="font-semibold">{technique.name}</span>
                <span class="soft text-sm">{technique.aliases.join(', ')}</span>
              </a>
            </li>
          {/each}
        </ul>
      </section>
    {/each}
  </div>
</div>
