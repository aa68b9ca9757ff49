<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down'
  import ArrowUp from '@lucide/svelte/icons/arrow-up'
  import GripVertical from '@lucide/svelte/icons/grip-vertical'
  import Lock from '@lucide/svelte/icons/lock'
  import LockOpen from '@lucide/svelte/icons/lock-open'
  import Trash2 from '@lucide/svelte/icons/trash-2'
  import type { Schemas } from '../api/client'
  import { newKey } from '../../own/queue'
  import { moved, timeOf } from './words'

  /** The units of a class: dragged or moved by keys, changed, locked, deleted, and own ones added. */
  interface Props {
    units: readonly Schemas['Unit'][]
    start: number
    people: readonly Schemas['AttendingOut'][]
    may: boolean
    changed: (units: Schemas['Unit'][]) => void
  }
  let { units, start, people, may, changed }: Props = $props()
  type Unit = Schemas['Unit']
  let dragged = $state<number | null>(null)
  let own = $state('')
  const names = $derived(new Map(people.map((one) => [one.id, one.name])))
  const begins = $derived(units.map((_, i) => start + units.slice(0, i).reduce((sum, unit) => sum + unit.minutes, 0)))
  /** A caution stands in full where it comes first; further on, the unit that tells it is named. */
  const firstWith = $derived(
    new Map(units.flatMap((unit, i) => (unit.cautions ?? []).map((one) => [one, i] as const)).reverse()),
  )
  const told = (i: number) => (units[i]?.cautions ?? []).filter((one) => firstWith.get(one) === i)
  const toldAt = (i: number) => [
    ...new Set((units[i]?.cautions ?? []).flatMap((one) => units[firstWith.get(one) ?? i]?.name ?? [])),
  ]
  const change = (at: number, more: Partial<Unit>) =>
    changed(units.map((unit, place) => (place === at ? { ...unit, ...more } : unit)))
  const move = (from: number, to: number) => {
    const next = moved(
      units.map((unit) => ({ ...unit, locked: unit.locked ?? false })),
      from,
      to,
    )
    if (next.some((unit, i) => unit.key !== units[i]?.key)) changed(next)
  }
  function add(event: Event): void {
    event.preventDefault()
    changed([...units, { key: `own:${newKey()}`, kind: 'own', name: own.trim(), minutes: 5 } as Unit])
    own = ''
  }
</script>

<ol class="mt-2" style={units.length ? 'border-top: 2px solid var(--ink)' : ''} data-testid="units">
  {#each units as unit, i (unit.key)}
    <li
      class="rule-b flex gap-3 py-2.5"
      class:band={dragged === i}
      data-unit={unit.kind}
      data-locked={unit.locked}
      draggable={may && !unit.locked}
      ondragstart={() => (dragged = i)}
      ondragend={() => (dragged = null)}
      ondragover={(event) => {
        if (dragged !== null) event.preventDefault()
      }}
      ondrop={(event) => {
        event.preventDefault()
        if (dragged !== null) move(dragged, i)
        dragged = null
      }}
    >
      {#if may}<span class="soft cursor-grab pt-0.5 print:hidden"><GripVertical size={16} aria-hidden="true" /></span
        >{/if}
      <span class="num w-14 shrink-0">{timeOf((begins[i] ?? 0) % 1440)}</span>
      <div class="min-w-0 grow">
        <div class="flex flex-wrap items-baseline gap-x-3">
          <b>{unit.name}</b>
          {#if may}<label class="soft text-sm"
              ><input
                class="field num w-14"
                type="number"
                min="1"
                max="600"
                value={unit.minutes}
                aria-label="Minutes of {unit.name}"
                onchange={(event) => change(i, { minutes: Math.max(1, Math.round(Number(event.currentTarget.value))) })}
              /> min</label
            >{:else}<span class="num soft text-sm">{unit.minutes} min</span>{/if}
          {#if may}<span class="small ml-auto flex gap-1 print:hidden">
              <button aria-label="Earlier: {unit.name}" disabled={unit.locked} onclick={() => move(i, i - 1)}
                ><ArrowUp size={16} aria-hidden="true" /></button
              >
              <button aria-label="Later: {unit.name}" disabled={unit.locked} onclick={() => move(i, i + 1)}
                ><ArrowDown size={16} aria-hidden="true" /></button
              >
              <button
                aria-label="{unit.locked ? 'Unlock' : 'Lock'}: {unit.name}"
                aria-pressed={unit.locked}
                onclick={() => change(i, { locked: !unit.locked })}
                >{#if unit.locked}<Lock size={16} aria-hidden="true" />{:else}<LockOpen
                    size={16}
                    aria-hidden="true"
                  />{/if}</button
              >
              <button aria-label="Delete: {unit.name}" onclick={() => changed(units.filter((_, place) => place !== i))}
                ><Trash2 size={16} aria-hidden="true" /></button
              >
            </span>{/if}
        </div>
        {#if unit.how}<p class="text-sm">{unit.how}</p>{/if}
        {#each unit.watch ?? [] as one (one.checkpoint)}
          <p class="text-sm">
            Watch: {one.ask}
            {#if one.missed}<span class="num soft">missed {one.missed} of {one.of}</span>{/if}
            <span class="soft">“{one.cue}”</span>
          </p>
        {/each}
        {#each unit.stations ?? [] as one, n (n)}
          <p class="text-sm">
            <b>Station {n + 1}</b>
            {one.name}: {one.drill}
            <span class="soft">{one.students.map((id) => names.get(id) ?? '').join(', ')}</span>
          </p>
        {/each}
        {#if unit.partner_task}<p class="soft text-sm">Partner: {unit.partner_task}</p>{/if}
        {#each told(i) as caution (caution)}<p class="text-sm" style:color="var(--alarm)">
            {caution}
          </p>{/each}
        {#if told(i).length < (unit.cautions ?? []).length}<p class="text-sm" style:color="var(--alarm)">
            With care, as at {toldAt(i)
              .filter((name) => name !== unit.name)
              .map((name) => `“${name}”`)
              .join(' and ')}.
          </p>{/if}
      </div>
    </li>
  {/each}
</ol>
{#if may && units.length}
  <form class="mt-2 flex gap-2 text-sm print:hidden" onsubmit={add}>
    <input
      class="field grow"
      bind:value={own}
      maxlength="120"
      required
      placeholder="Something of your own, in a line"
      aria-label="Own unit"
    /><button class="button">Add</button>
  </form>
{/if}

<style>
  .band {
    background: var(--band);
  }
  button:disabled {
    opacity: 0.35;
  }
  .small button {
    display: grid;
    min-width: 26px;
    min-height: 26px;
    place-items: center;
  }
</style>
