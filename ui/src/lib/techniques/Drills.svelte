<script lang="ts">
  import type { Schemas } from '../api/client'
  import { RESISTANCE } from '../parts/labels'
  import { sentence, spoken } from '../parts/words'

  /** Drills with their dose, what the partner does, and how they are done alone. */
  let { drills }: { drills: readonly Schemas['DrillOut'][] } = $props()
  const WITH: Record<string, string> = {
    none: 'Alone',
    wall: 'Alone at a wall',
    belt: 'Alone with a belt',
    dummy: 'With a dummy',
    bag: 'With a bag',
  }
  const resistance = (drill: Schemas['DrillOut']) => {
    if (drill.resistance === 'none') return ''
    const from = drill.resists_from ? ` from “${spoken(drill.resists_from)}” on` : ''
    return `Resistance: ${RESISTANCE[drill.resistance]}${from}.`
  }
</script>

<h2 class="mt-6">Drills</h2>
<ul class="mt-1 text-sm" style="border-top: 2px solid var(--ink)" data-testid="lesson-drills">
  {#each drills as drill (drill.name)}
    <li class="rule-b grid gap-x-6 gap-y-1 py-2 md:grid-cols-[16rem_1fr]">
      <span
        ><b class="font-semibold">{drill.name}</b><span class="num block"
          >{drill.dose}{#if drill.minutes}<span class="soft"> · {drill.minutes} min</span>{/if}{#if drill.space_m}<span
              class="soft"
            >
              · {drill.space_m} m of space</span
            >{/if}</span
        ></span
      >
      <span>
        {#if drill.start}<span class="soft block">From: {sentence(drill.start)}</span>{/if}
        <span class="block">{sentence(drill.how)}</span>
        {#if drill.objective}<span class="block"><b class="font-semibold">Game.</b> {sentence(drill.objective)}</span
          >{/if}
        {#if drill.partner_task}<span class="block"
            ><b class="font-semibold">Partner:</b> {sentence(drill.partner_task)} {resistance(drill)}</span
          >{:else if resistance(drill)}<span class="block">{resistance(drill)}</span>{/if}
        {#each Object.entries(drill.solo) as [equipment, how] (equipment)}<span class="block"
            ><b class="font-semibold">{WITH[equipment] ?? 'Alone'}:</b> {sentence(how)}</span
          >{/each}
        {#if drill.answers.length}<span class="soft block"
            >For {drill.answers.map(spoken).join(', ').toLowerCase()}.</span
          >{/if}
      </span>
    </li>
  {/each}
</ul>
