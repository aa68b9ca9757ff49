<script lang="ts">
  import { sure } from '../lib/parts/asked.svelte'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { onMount } from 'svelte'
  import { tinykeys } from 'tinykeys'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import Glyph from '../lib/parts/Glyph.svelte'
  import { longDay, sentence, shownSpeed, spoken } from '../lib/parts/words'
  import { Player } from '../lib/player/player.svelte'

  /** Another coach's finished review, judged again by eye without seeing its verdicts. */
  let { params }: { params: { review: string } } = $props()
  type Verdict = 'met' | 'missed' | 'not_seen'
  const queries = useQueryClient()
  const key = $derived(['second', params.review])
  const path = $derived({ params: { path: { review_id: params.review } } })
  const look = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/reviews/{review_id}/second', path)),
  }))
  const data = $derived(look.data)
  const player = new Player()
  let video = $state<HTMLVideoElement>()
  let repAt = $state(0)
  let pointAt = $state(0)
  const asking = new Asking()
  const rep = $derived(data?.reps[repAt])
  const point = $derived(rep?.checkpoints[pointAt])
  const given = $derived(data?.reps.flatMap((one) => one.checkpoints).filter((one) => one.mine).length ?? 0)
  const all = $derived(data?.reps.flatMap((one) => one.checkpoints).length ?? 0)
  const CHOICES: { verdict: Verdict; key: string; word: string }[] = [
    { verdict: 'met', key: 'Y', word: 'as it should be' },
    { verdict: 'missed', key: 'N', word: 'missed' },
    { verdict: 'not_seen', key: 'U', word: 'cannot tell' },
  ]
  // The element is there only once the film is known; handing it over is what starts the player.
  $effect(() => (video && data ? player.attach(video, data.pts_s) : undefined))
  let opened = false
  $effect(() => {
    // Once, when the film is known: the first rep from its first frame.
    if (rep && video && !opened) {
      opened = true
      player.go(rep.first_frame)
    }
  })

  const doing = (answer: Promise<Schemas['SecondOpinionOut']>) =>
    asking.run(async () => queries.setQueryData(key, await answer))
  async function give(verdict: Verdict): Promise<void> {
    if (!rep || !point || data?.handed_in) return
    const body = { verdict: point.mine === verdict ? null : verdict }
    const where = { params: { path: { review_id: params.review, rep_id: rep.id, checkpoint: point.id } } }
    if (
      (await doing(unwrap(client.PUT('/api/reviews/{review_id}/second/{rep_id}/{checkpoint}', { ...where, body })))) &&
      body.verdict
    )
      move(1)
  }
  async function handIn(): Promise<void> {
    if (
      !(await sure(
        `Submit ${given} of ${all} verdicts?`,
        'They cannot be changed after that, and the first coach’s verdicts are shown beside them.',
        'Submit',
      ))
    )
      return
    await doing(unwrap(client.POST('/api/reviews/{review_id}/second', path)))
    await queries.invalidateQueries({ queryKey: ['academy'] })
  }
  function move(by: 1 | -1): void {
    choose(Math.max(0, Math.min((rep?.checkpoints.length ?? 1) - 1, pointAt + by)))
  }
  function choose(at: number): void {
    pointAt = at
    const frame = rep?.checkpoints[at]?.frame
    if (frame != null && !player.playing) player.go(frame)
  }
  function open(at: number): void {
    const to = data?.reps[at]
    if (!to) return
    repAt = at
    pointAt = 0
    player.go(to.first_frame)
  }
  const free = (work: () => void) => (event: KeyboardEvent) => {
    if (event.target instanceof HTMLElement && event.target.matches('input, select, textarea')) return
    event.preventDefault()
    work()
  }
  onMount(() =>
    tinykeys(window, {
      ArrowLeft: free(() => player.step(-1)),
      ArrowRight: free(() => player.step(1)),
      'Shift+ArrowLeft': free(() => player.step(-10)),
      'Shift+ArrowRight': free(() => player.step(10)),
      ArrowUp: free(() => move(-1)),
      ArrowDown: free(() => move(1)),
      Space: free(() => play()),
      s: free(() => player.cycleSpeed()),
      y: free(() => void give('met')),
      n: free(() => void give('missed')),
      u: free(() => void give('not_seen')),
    }),
  )
  function play(): void {
    if (rep) player.loop = { first: rep.first_frame, last: rep.last_frame }
    player.toggle()
  }
</script>

<div class="mx-auto max-w-6xl px-4 py-4">
  {#if look.error}<p class="notice bad" role="alert">{look.error.message}</p>{/if}
  {#if data}
    <div class="flex flex-wrap items-baseline gap-x-4">
      <h1>Second opinion</h1>
      <span>{data.student}</span><span class="soft text-sm"
        >{data.clip_name}, <span class="num">{longDay(data.filmed_on)}</span>, first judged by {data.first_coach}</span
      >
      <a class="ml-auto text-sm underline" href="#/academy">Back to the academy</a>
    </div>
    <p class="soft text-sm">
      {data.handed_in
        ? 'Submitted: your verdicts are shown beside the first ones.'
        : `Judge by eye what you see. ${data.first_coach}’s verdicts are shown when you have submitted yours.`}
    </p>
    {#if asking.failure}<p class="notice bad mt-1" role="alert">{asking.failure}</p>{/if}
    <div class="mt-3 grid gap-5 lg:grid-cols-[1.35fr_1fr]">
      <div>
        <video
          bind:this={video}
          class="block w-full"
          style="background: var(--well); aspect-ratio: {data.width} / {data.height}; max-height: 62vh"
          src="/api/clips/{data.clip}/video"
          muted
          playsinline
          preload="auto"
          aria-label="The clip at frame {player.shown}"
        ></video>
        <div class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm">
          <span class="flex gap-1" role="group" aria-label="Reps"
            >{#each data.reps as one, i (one.id)}<button
                class="button"
                class:main={i === repAt}
                aria-pressed={i === repAt}
                onclick={() => open(i)}>Rep {i + 1}</button
              >{/each}</span
          >
          <button class="button" onclick={play}>{player.playing ? 'Pause' : 'Play the rep'} <kbd>Space</kbd></button>
          <button class="underline" onclick={() => player.cycleSpeed()}>{shownSpeed(player.speed)} <kbd>S</kbd></button>
          <span class="soft">frame <b class="num" data-testid="frame">{player.shown}</b> <kbd>←</kbd> <kbd>→</kbd></span
          >
          {#if rep}<span class="soft">{rep.technique}, {rep.side}</span>{/if}
        </div>
        {#if data.cautions.length}<details class="mt-2 text-xs">
            <summary class="soft">With care</summary>
            <ul class="list-disc pl-5" style="color: var(--alarm)">
              {#each data.cautions as caution (caution)}<li>{caution}</li>{/each}
            </ul>
          </details>{/if}
      </div>
      <div>
        <ul class="text-sm" style="border-top: 2px solid var(--ink)" aria-label="Checkpoints">
          {#each rep?.checkpoints ?? [] as one, i (one.id)}
            <li
              class="rule-b px-2 py-1.5"
              class:here={i === pointAt}
              aria-current={i === pointAt}
              data-checkpoint={one.id}
              data-mine={one.mine ?? ''}
            >
              <button class="flex w-full items-baseline gap-2 text-left" onclick={() => choose(i)}>
                {#if one.mine}<Glyph verdict={one.mine} />{:else}<span
                    class="soft num w-3.5 text-center"
                    aria-label="not judged yet">·</span
                  >{/if}
                <span class:font-semibold={i === pointAt}>{one.ask}</span>{#if one.safety}<span
                    class="text-xs font-semibold"
                    style="color: var(--alarm)">safety</span
                  >{/if}
                {#if data.handed_in}<span class="soft ml-auto inline-flex items-baseline gap-1 whitespace-nowrap"
                    >{data.first_coach}: <Glyph verdict={one.first ?? 'not_asked'} size={12} />
                    {spoken(one.first ?? 'not asked')}</span
                  >{/if}
              </button>
              {#if i === pointAt}
                <p class="soft mt-0.5 pl-5">
                  {sentence(one.look_for || one.why)}{#if one.frame != null}{' '}Read at frame
                    <button class="num underline" onclick={() => player.go(one.frame ?? 0)}>{one.frame}</button>.{/if}
                </p>
                {#if !data.handed_in}<div class="mt-1 flex flex-wrap gap-2 pl-5">
                    {#each CHOICES as choice (choice.verdict)}<button
                        class="button"
                        class:main={one.mine === choice.verdict}
                        aria-pressed={one.mine === choice.verdict}
                        onclick={() => void give(choice.verdict)}>{choice.word} <kbd>{choice.key}</kbd></button
                      >{/each}
                  </div>{/if}
              {/if}
            </li>
          {/each}
        </ul>
        {#if !data.handed_in}<div class="mt-3 flex items-baseline gap-3">
            <button class="button main" disabled={given === 0} onclick={() => void handIn()}>Submit</button><span
              class="soft text-sm"
              ><span class="num">{given}</span> of <span class="num">{all}</span> judged; each is saved as it is given</span
            >
          </div>{/if}
      </div>
    </div>
  {:else if look.isPending}<p class="soft">Opening…</p>{/if}
</div>

<style>
  .here {
    background: var(--band);
    box-shadow: inset 3px 0 0 var(--performer);
  }
</style>
