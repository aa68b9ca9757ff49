<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus'
  import Trash2 from '@lucide/svelte/icons/trash-2'
  import type { Schemas } from '../../api/client'
  import DoseFields from '../../plan/DoseFields.svelte'
  import { spoken } from '../../parts/words'
  import Field from './Field.svelte'
  import type { Building } from './building.svelte'
  import { named } from './file'

  let { build }: { build: Building } = $props()
  const drills = $derived(build.file.list(['drills']))
  const faults = $derived([
    ...new Set(
      build.file
        .list(['checkpoints'])
        .map((one) => (one as { fault?: { code?: unknown } } | null)?.fault?.code)
        .filter((code): code is string => typeof code === 'string' && code !== ''),
    ),
  ])
  const answers = (i: number) => build.file.list(['drills', i, 'for']).map(String)
  const without = $derived(faults.filter((fault) => !drills.some((_, i) => answers(i).includes(fault))))

  function add(): void {
    const dose = { sets: 3, reps: 5 }
    build.set([
      ['drills', drills.length],
      { id: `drill-${drills.length + 1}`, name: '', for: without.slice(0, 1), how: '', dose },
    ])
  }
  function call(i: number): void {
    const id = named(build.file.words(['drills', i, 'name']), '-')
    if (/^drill-\d+$/.test(build.file.words(['drills', i, 'id'])) && id) build.set([['drills', i, 'id'], id])
  }
  function answer(i: number, fault: string, on: boolean): void {
    build.set([['drills', i, 'for'], on ? [...answers(i), fault] : answers(i).filter((one) => one !== fault)])
  }
  const doseOf = (i: number): Schemas['Dose'] => {
    const dose = build.file.at(['drills', i, 'dose'])
    return (typeof dose === 'object' && dose !== null ? dose : { sets: 3, reps: 5 }) as Schemas['Dose']
  }
  /** As it is written in a file: what is as usual is left out. */
  function written(dose: Schemas['Dose']): Record<string, unknown> {
    const usual: Record<string, unknown> = { sides: 'one', turns: 1, rest_s: 0, reps: null, seconds: null }
    const keys = dose.seconds != null ? ['rounds', 'seconds', 'rest_s'] : ['sets', 'reps', 'sides', 'turns']
    const kept = Object.entries(dose).filter(([key, value]) => keys.includes(key) && value !== usual[key])
    return Object.fromEntries(kept)
  }
</script>

{#if without.length}<p class="notice text-sm">
    No drill yet for {without.map(spoken).join(', ')}. A fault with a drill can be practised from the next review on.
  </p>{/if}
<ul>
  {#each drills as drill, i (i)}
    <li class="rule-b py-4">
      {#if typeof drill === 'object'}
        <div class="flex flex-wrap gap-x-6">
          <div class="min-w-60 grow">
            <Field
              {build}
              label="Name of the drill"
              path={['drills', i, 'name']}
              placeholder="Slow kicks at a wall"
              left={() => call(i)}
            />
          </div>
          <div class="mt-3">
            <span class="text-sm font-semibold">How much</span>
            <div class="mt-1">
              <DoseFields bind:dose={() => doseOf(i), (dose) => build.set([['drills', i, 'dose'], written(dose)])} />
            </div>
          </div>
        </div>
        <Field {build} label="How it is done" path={['drills', i, 'how']} long />
        <fieldset class="mt-3 text-sm">
          <legend class="font-semibold">For which faults</legend>
          {#each faults as fault (fault)}
            <label class="mr-4 inline-flex min-h-7 items-center gap-2"
              ><input
                type="checkbox"
                checked={answers(i).includes(fault)}
                onchange={(event) => answer(i, fault, event.currentTarget.checked)}
              />{spoken(fault)}</label
            >
          {/each}
          {#each build.at('drills', i, 'for') as problem, j (j)}<p style="color: var(--alarm)">
              {problem.message}
            </p>{/each}
        </fieldset>
      {:else}<p class="text-sm">{spoken(String(drill))}, a drill of another technique.</p>{/if}
      <button
        class="mt-2 inline-flex min-h-7 items-center gap-1 text-sm underline"
        onclick={() => build.set([['drills', i], undefined])}
        ><Trash2 size={16} aria-hidden="true" /> Delete this drill</button
      >
    </li>
  {/each}
</ul>
<button class="button mt-4" onclick={add}><Plus size={16} aria-hidden="true" /> Add a drill</button>
