<script lang="ts">
  import { session } from '../people/session.svelte'
  import RotateCcw from '@lucide/svelte/icons/rotate-ccw'
  import Square from '@lucide/svelte/icons/square'
  import Trash2 from '@lucide/svelte/icons/trash-2'
  import Bar from '../parts/Bar.svelte'
  import type { Clip } from '../api/client'
  import Filmstrip from '../review/strand/Filmstrip.svelte'
  import { day, seconds } from '../parts/words'
  import CaptureRate from './CaptureRate.svelte'
  import { clipFacts, clipFlaws } from './facts'
  import { timeLeft } from './list'

  interface Props {
    clip: Clip
    here: boolean
    ticked: boolean
    now: number
    tick: () => void
    name: () => void
    stop: () => void
    again: () => void
    remove: () => void
    changed: () => Promise<void>
  }
  let { clip, here, ticked, now, tick, name, stop, again, remove, changed }: Props = $props()
  let asking = $state(false)
  const THUMB = { width: 96, height: 54 }
  /** One picture, from the middle of the clip: its ends show someone walking to the phone. */
  const picture = $derived(clip.film ? Math.min((clip.film.width * THUMB.height) / clip.film.height, THUMB.width) : 0)
  const line = $derived(clip.line.replace(/, "[^"]*"$/, ''))
  const left = $derived(timeLeft(clip, now))
  const flaws = $derived(clip.state === 'ready' ? clipFlaws(clip) : [])
</script>

<div class="flex flex-wrap items-start gap-x-3 gap-y-2 sm:flex-nowrap">
  <input
    type="checkbox"
    class="mt-1.5"
    checked={ticked}
    onchange={tick}
    aria-label="Select {clip.name}"
    tabindex={here ? 0 : -1}
  />
  <div class="hidden shrink-0 justify-center sm:flex" style="width: {THUMB.width}px; height: {THUMB.height}px">
    {#if clip.film && clip.state === 'ready'}
      <div class="relative overflow-hidden" style="width: {picture}px">
        <Filmstrip
          clip={clip.id}
          film={clip.film}
          from={0}
          to={clip.frames_done - 1}
          width={picture}
          height={THUMB.height}
        />
      </div>
    {/if}
  </div>
  <div class="min-w-[calc(100%-3rem)] flex-1 sm:min-w-0">
    <div class="flex flex-wrap items-baseline gap-x-3">
      <button
        class="text-left font-semibold"
        onclick={name}
        data-testid="line"
        aria-label="Edit name: {line || (clip.suggested ? `${clip.suggested}?` : 'Student and technique?')}"
      >
        {#if line}{line}{:else}<span class="soft font-normal italic"
            >{clip.suggested ? `${clip.suggested}?` : 'Student and technique?'}</span
          >{/if}
      </button>
      <span class="soft text-sm"
        >{day(clip.filmed_on)} · <span class="break-all">{clip.folder ? `${clip.folder}/` : ''}{clip.name}</span></span
      >
    </div>
    {#if clip.naming.question}<p class="text-sm">“{clip.naming.question}”</p>{/if}
    <div class="soft text-sm">
      {#if clip.state === 'ready'}
        <span class="num">{clipFacts(clip)}</span>
        {#if flaws.length === 1}<p>{flaws[0]}</p>
        {:else if flaws.length}<details class="mt-0.5">
            <summary class="cursor-pointer">{flaws.length} notes about this clip</summary>{#each flaws as flaw (flaw)}<p
                class="ml-4"
              >
                {flaw}
              </p>{/each}
          </details>{/if}
      {:else if clip.state === 'reading' || clip.state === 'waiting'}
        <span class="flex flex-wrap items-center gap-3">
          <Bar
            label="{clip.name}: frames read"
            share={clip.state === 'waiting' ? 0 : clip.frames_done / (clip.frames_expected || 1)}
          />
          <span class="num"
            >{clip.state === 'waiting'
              ? 'waiting to be read'
              : `frame ${clip.frames_done} of ${clip.frames_expected ?? '?'} read${left == null ? '' : ` · ${seconds(Math.ceil(left))} left`}`}</span
          >
        </span>
      {:else if clip.state === 'stopped'}Stopped. The original is kept.
      {:else}<span role="alert" style="color: var(--alarm)">{clip.failure}</span>{/if}
    </div>
    {#if clip.state === 'ready' && clip.has_film && !clip.capture_sure}
      <div class="notice mt-2">
        {#if asking}<CaptureRate {clip} {changed} />
        {:else}<span class="text-sm"
            >Was this filmed in slow motion? The file does not say: {clip.capture_why}.
            <button class="underline" onclick={() => (asking = true)}>Set the rate</button></span
          >{/if}
      </div>
    {/if}
  </div>
  <div class="ml-7 flex items-center gap-2 sm:ml-0">
    {#if clip.state === 'ready'}
      {#if clip.review === 'finished'}<span class="soft hidden text-sm sm:inline">reviewed</span>{/if}
      {#if clip.student_id && !session.mayReview && clip.review === 'none'}<span class="soft text-sm"
          >not reviewed yet</span
        >
      {:else if clip.student_id}<a class="button" class:main={clip.review !== 'finished'} href="#/bench/{clip.id}"
          >{clip.review === 'none' ? 'Review' : clip.review === 'open' ? 'Resume' : 'Open'}</a
        >
      {:else}<button class="button main" onclick={name}>Name it</button>{/if}
    {:else if clip.state === 'reading' || clip.state === 'waiting'}<button class="button" onclick={stop}
        ><Square size={15} aria-hidden="true" /> Stop</button
      >
    {:else}<button class="button" onclick={again}><RotateCcw size={16} aria-hidden="true" /> Read again</button>{/if}
    {#if clip.state !== 'reading' && session.mayReview}<button
        class="soft inline-flex items-center gap-1 px-1 text-sm"
        onclick={remove}
        aria-label="Delete {clip.name}"
        ><Trash2 size={15} aria-hidden="true" /> <span class="underline">Delete</span></button
      >{/if}
  </div>
</div>
