<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import type { Snippet } from 'svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import MovingFigure from '../figure/MovingFigure.svelte'
  import { readOn } from '../figure/motion'
  import type { Side } from './words'

  /** The studio's figure doing a technique; with a checkpoint, done right beside done wrong. */
  interface Props {
    technique: string
    name: string
    side: Side
    options: Record<string, string>
    /** Judged by this text, which is still being written. */
    text?: string
    view?: Schemas['LessonOut']['best_view']
    /** What the partner does. */
    reaction?: string
    checkpoint?: { id: string; kind: string; fault: string; shows_fault: boolean }
    /** What is shown where the studio cannot do it in these options. */
    instead?: Snippet
  }
  let { technique, name, side, options, text = '', view = null, reaction = '', checkpoint, instead }: Props = $props()

  const chosen = $derived(Object.entries(options).map(([group, choice]) => `${group}:${choice}`))
  const ask = (fault?: string) => {
    const query = { side, option: chosen, ...(fault ? { fault } : {}), ...(reaction ? { reaction } : {}) }
    return {
      queryKey: ['figure', technique, side, chosen.join(' '), fault ?? '', reaction, text],
      queryFn: () =>
        text
          ? unwrap(client.POST('/api/techniques/figure', { params: { query }, body: { text } }))
          : unwrap(
              client.GET('/api/techniques/{technique_id}/figure', {
                params: { path: { technique_id: technique }, query },
              }),
            ),
      staleTime: Infinity,
      retry: false,
    }
  }
  const right = createQuery(() => ask())
  const wrong = createQuery(() => ({ ...ask(checkpoint?.fault), enabled: checkpoint?.shows_fault ?? false }))
  const from = $derived(view === 'front' || view === 'behind' || view === 'above' ? view : 'side')
  // Without a fault both questions are the same one.
  const fault = $derived(checkpoint?.shows_fault ? wrong.data : undefined)
  const label = $derived(fault ? `${name}: right beside wrong` : `${name} as a moving figure`)
  const ready = $derived(!!right.data && (!checkpoint?.shows_fault || !!fault || !!wrong.error))
</script>

{#if right.error}
  <p class="soft text-sm" data-testid="no-figure">{right.error.message}</p>
  {@render instead?.()}
{:else if ready && right.data}
  {#key [right.data, fault]}
    {#if checkpoint && fault}
      <MovingFigure
        panes={[
          { figure: right.data, title: 'Right', note: readOn(right.data, checkpoint.id) },
          {
            figure: fault,
            title: `Wrong${fault.degree && ` by ${fault.degree}`}: ${fault.says}`,
            note: readOn(fault, checkpoint.id),
            missed: true,
          },
        ]}
        view={from}
        checkpoint={checkpoint.id}
        kind={checkpoint.kind}
        {label}
      />
    {:else}
      <MovingFigure
        panes={[{ figure: right.data, title: '', note: checkpoint && readOn(right.data, checkpoint.id) }]}
        view={from}
        checkpoint={checkpoint?.id ?? ''}
        kind={checkpoint?.kind ?? ''}
        {label}
      />
    {/if}
  {/key}
{:else}
  <p class="waiting soft text-sm">The figure is getting ready…</p>
{/if}

<style>
  .waiting {
    display: grid;
    place-items: center;
    aspect-ratio: 2.3;
    background: var(--band);
  }
</style>
