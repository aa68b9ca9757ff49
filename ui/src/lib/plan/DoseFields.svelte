<script lang="ts">
  import type { Schemas } from '../api/client'

  /** How much of a drill: sets of reps, or rounds of seconds. */
  let { dose = $bindable() }: { dose: Schemas['Dose'] } = $props()
  const timed = $derived(dose.seconds != null)
  const number = (event: Event, least = 1) =>
    Math.max(least, Math.round(Number((event.currentTarget as HTMLInputElement).value) || least))
  function inRounds(next: boolean): void {
    const none = { sets: 1, reps: null, sides: 'one', turns: 1, rounds: 1, seconds: null, rest_s: 0 } as const
    dose = next ? { ...none, rounds: 3, seconds: 60, rest_s: 30 } : { ...none, sets: 3, reps: 10 }
  }
</script>

<span class="inline-flex flex-wrap items-center gap-2">
  {#if timed}
    <input
      class="field num w-16"
      type="number"
      min="1"
      max="99"
      aria-label="Rounds"
      value={dose.rounds ?? 1}
      onchange={(event) => (dose = { ...dose, rounds: number(event) })}
    />
    rounds of
    <input
      class="field num w-20"
      type="number"
      min="5"
      max="3600"
      aria-label="Seconds"
      value={dose.seconds ?? 60}
      onchange={(event) => (dose = { ...dose, seconds: number(event, 5) })}
    /> s
  {:else}
    <input
      class="field num w-16"
      type="number"
      min="1"
      max="99"
      aria-label="Sets"
      value={dose.sets ?? 1}
      onchange={(event) => (dose = { ...dose, sets: number(event) })}
    />
    ×
    <input
      class="field num w-16"
      type="number"
      min="1"
      max="999"
      aria-label="Reps"
      value={dose.reps ?? 1}
      onchange={(event) => (dose = { ...dose, reps: number(event) })}
    />
    <label class="inline-flex items-center gap-1"
      ><input
        type="checkbox"
        checked={dose.sides === 'both'}
        onchange={(event) => (dose = { ...dose, sides: event.currentTarget.checked ? 'both' : 'one' })}
      />on both sides</label
    >
  {/if}
  <button type="button" class="text-sm underline" onclick={() => inRounds(!timed)}
    >{timed ? 'in reps' : 'in rounds'}</button
  >
</span>
