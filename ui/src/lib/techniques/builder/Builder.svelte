<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { untrack } from 'svelte'
  import { client, unwrap, type Schemas } from '../../api/client'
  import { spoken } from '../../parts/words'
  import CheckpointStep from './CheckpointStep.svelte'
  import DrillStep from './DrillStep.svelte'
  import MovementStep from './MovementStep.svelte'
  import NameStep from './NameStep.svelte'
  import { Building, STEPS, type Step } from './building.svelte'

  interface Props {
    text: string
    isNew: boolean
    problems: Schemas['CheckedOut']['problems']
    parts: Schemas['BuildingOut']
    techniques: readonly { id: string; name: string }[]
    changed: (text: string) => void
    /** Go to a line of the text. */
    toText: (line: number) => void
  }
  /** A technique put together in steps: the same file as the text beside it. */
  let { text, isNew, problems, parts, techniques, changed, toText }: Props = $props()
  const build = untrack(() => new Building(() => ({ text, problems, isNew }), changed, parts, techniques))

  const NAMES: Record<Step, string> = {
    name: 'Name',
    movement: 'Movement',
    checkpoints: 'Checkpoints',
    drills: 'Drills',
  }
  const figure = createQuery(() => ({
    queryKey: ['figure', build.model, 'right', 'builder'],
    queryFn: () =>
      unwrap(
        client.GET('/api/techniques/{technique_id}/figure', {
          params: { path: { technique_id: build.model }, query: { side: 'right' as const } },
        }),
      ),
    enabled: build.model !== '',
    staleTime: Infinity,
    retry: false,
  }))
  const shown = $derived(build.model ? figure.data : undefined)
  const next = $derived(STEPS[STEPS.indexOf(build.step) + 1])
  const elsewhere = $derived(problems.filter((problem) => build.stepOf(problem) !== build.step))
  const wordsOf = (problem: (typeof problems)[number]) =>
    [
      ...problem.path.filter((part) => typeof part === 'string').map((part) => spoken(String(part))),
      problem.message,
    ].join(': ')
</script>

{#if build.file.broken}
  <p class="notice bad mt-3" role="alert">
    The text cannot be read: {build.file.broken.message}
    <button class="underline" onclick={() => toText(build.file.broken?.line ?? 1)}
      >Mend it in line {build.file.broken.line}</button
    >
  </p>
{:else}
  <ol class="steps" aria-label="Steps">
    {#each STEPS as step, i (step)}
      {@const wrong = build.in(step).length}
      <li>
        <button class="step" aria-current={step === build.step ? 'step' : undefined} onclick={() => (build.step = step)}
          ><span class="num">{i + 1}</span>
          {NAMES[step]}
          {#if wrong}<span class="wrong">{wrong} to fill in</span>{/if}</button
        >
      </li>
    {/each}
  </ol>
  <div class="mt-3">
    {#if build.step === 'name'}<div class="max-w-2xl"><NameStep {build} /></div>
    {:else if build.step === 'movement'}<MovementStep {build} figure={shown} />
    {:else if build.step === 'checkpoints'}<CheckpointStep {build} figure={shown} />
    {:else}<div class="max-w-3xl"><DrillStep {build} /></div>{/if}
    {#if figure.error && build.model}<p class="notice bad mt-3 text-sm" role="alert">{figure.error.message}</p>{/if}
  </div>
  <div class="mt-6 flex flex-wrap items-start gap-4">
    {#if next}<button class="button" onclick={() => (build.step = next)}>Next: {NAMES[next].toLowerCase()}</button>{/if}
    {#if elsewhere.length}
      <div class="text-sm">
        <b>Still to fill in elsewhere</b>
        <ul data-testid="elsewhere">
          {#each elsewhere as problem, i (i)}
            <li>
              <button
                class="min-h-7 text-left underline"
                onclick={() => (build.stepOf(problem) ? build.goTo(problem) : toText(problem.line ?? 1))}
                >{wordsOf(problem)}</button
              >
            </li>
          {/each}
        </ul>
      </div>
    {/if}
  </div>
{/if}

<style>
  .steps {
    display: flex;
    flex-wrap: wrap;
    gap: 0.3rem 1.4rem;
    border-bottom: 1px solid var(--rule);
  }
  .step {
    display: block;
    padding: 0.35rem 0.2rem;
    border-bottom: 3px solid transparent;
  }
  .step[aria-current] {
    border-color: var(--performer);
    font-weight: 650;
  }
  .wrong {
    color: var(--alarm);
    font-size: 0.85rem;
    font-weight: 400;
  }
</style>
