<script lang="ts">
  import type { Schemas } from '../api/client'
  import { sentence, shown } from '../parts/words'
  import StudioFigure from './StudioFigure.svelte'
  import type { Side } from './words'

  /** What the partner does, and what is taught as the answer. */
  interface Props {
    lesson: Schemas['LessonOut']
    side: Side
    options: Record<string, string>
  }
  let { lesson, side, options }: Props = $props()
  let moving = $state('')
</script>

<h2 class="mt-6">When the partner reacts</h2>
<ul class="mt-1 text-sm" style="border-top: 2px solid var(--ink)" data-testid="lesson-reactions">
  {#each lesson.reactions as one (one.id)}
    <li class="rule-b grid gap-x-6 gap-y-1 py-2 md:grid-cols-[16rem_1fr]">
      <span
        ><b class="font-semibold">{sentence(one.says)}</b>{#if one.within_ms}<span class="soft block"
            >answer within <span class="num">{shown(one.within_ms, 'ms')}</span></span
          >{/if}</span
      >
      <span>
        {#each one.answers as answer (answer.name)}<span class="block"
            ><span aria-hidden="true" style="color: var(--met)">→</span>
            <b class="font-semibold">{answer.name}</b>{#if answer.then}. {sentence(answer.then)}{/if}</span
          >{/each}
        {#each one.wrong as answer (answer.name)}<span class="block" style="color: var(--alarm)"
            >Wrong: {answer.name}{#if answer.then}. {sentence(answer.then)}{/if}</span
          >{/each}
        <span class="soft block"
          >{#if one.cues.length}“{one.cues.join('” · “')}”{/if}{#if one.cues_for_children.length}
            · children: “{one.cues_for_children.join('”, “')}”{/if}
          {one.why ? ` ${sentence(one.why)}` : ''}</span
        >
        {#if one.moves}<button
            class="underline"
            aria-expanded={moving === one.id}
            onclick={() => (moving = moving === one.id ? '' : one.id)}
            >{moving === one.id ? 'Hide the figure' : 'See it move'}</button
          >{/if}
      </span>
      {#if moving === one.id}
        <div class="md:col-span-2">
          <StudioFigure
            technique={lesson.id}
            name={one.says}
            {side}
            {options}
            view={lesson.best_view}
            reaction={one.id}
          />
        </div>
      {/if}
    </li>
  {/each}
</ul>
