<script lang="ts">
  import { VERDICTS } from '../../parts/labels'
  import type { Bench } from '../state/bench.svelte'
  import type { Verdict } from '../state/changes'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const GIVEN: Verdict[] = ['met', 'missed', 'not_seen']
  // What is measured now is left: it cannot be overruled by itself.
  const rules = $derived(bench.judgement?.measured ?? bench.judgement?.verdict)
  const choices = $derived(GIVEN.filter((verdict) => verdict !== rules))
  let verdict = $state<Verdict | ''>('')
  let reason = $state('')
  let first = $state<HTMLSelectElement>()
  $effect(() => first?.focus())
  function save(event: SubmitEvent): void {
    event.preventDefault()
    const given = verdict || choices[0]
    if (given && reason.trim()) bench.marking.overrule({ verdict: given, reason: reason.trim() })
  }
</script>

<svelte:window onkeydown={(event) => event.key === 'Escape' && (bench.marking.overruling = false)} />
<form class="mt-1 flex flex-wrap items-end gap-2 text-sm" onsubmit={save} aria-label="Overrule">
  <label
    >Your verdict<br />
    <select class="field" bind:this={first} bind:value={verdict}>
      <option value="" disabled>choose</option>
      {#each choices as choice (choice)}<option value={choice}>{VERDICTS[choice]}</option>{/each}
    </select>
  </label>
  <label class="grow"
    >Why<br /><input
      class="field w-full"
      maxlength="400"
      required
      bind:value={reason}
      placeholder="seen from the other side of the mat"
    /></label
  >
  <button class="button main" disabled={!verdict}>Overrule</button>
  {#if bench.judgement?.measured}<button type="button" class="button" onclick={() => bench.marking.overrule(null)}
      >As measured</button
    >{/if}
  <button type="button" class="underline" onclick={() => (bench.marking.overruling = false)}>cancel</button>
</form>
