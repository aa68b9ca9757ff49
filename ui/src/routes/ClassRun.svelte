<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause'
  import Play from '@lucide/svelte/icons/play'
  import SkipBack from '@lucide/svelte/icons/skip-back'
  import SkipForward from '@lucide/svelte/icons/skip-forward'
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { beep, placeAt, roundAt } from '../lib/plan/clock'
  import FloorPad from '../lib/plan/FloorPad.svelte'
  import { Ticking } from '../lib/plan/ticking.svelte'
  import { countdown } from '../lib/plan/words'

  /** A class at the mat, for a tablet or a phone: the unit, the time that is left, what is next. The time is the
   * server’s: it goes on while the screen is locked, and a page that is loaded again shows it right. */
  let { params }: { params: { lesson: string } } = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  const key = $derived(['class', params.lesson])
  const path = $derived({ params: { path: { lesson_id: params.lesson } } })
  const lesson = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/classes/{lesson_id}', path)),
    refetchInterval: 10_000,
    refetchOnWindowFocus: true,
  }))
  const data = $derived(lesson.data)
  const time = new Ticking()
  $effect(() => {
    if (data) time.told(data.clock)
  })
  $effect(() => time.start())
  const lengths = $derived((data?.units ?? []).map((unit) => 60 * unit.minutes))
  const now = $derived(data ? placeAt(data.clock, lengths, time.ahead, time.here) : null)
  const unit = $derived(now ? data?.units[now.unit] : undefined)
  const following = $derived(now ? data?.units[now.unit + 1] : undefined)
  const rounds = $derived.by(() => {
    const dose = unit?.dose
    if (!now || !unit || !dose || dose.seconds == null) return null
    return roundAt(60 * unit.minutes - now.left, dose.rounds ?? 1, dose.seconds, dose.rest_s ?? 0)
  })
  const running = $derived((data?.clock.running ?? false) && !now?.over)
  // What begins is heard, a round high and a rest or a new unit low.
  let heard = ''
  $effect(() => {
    const place = `${now?.unit} ${rounds?.round} ${rounds?.rest}`
    if (heard && heard !== place && running) beep(rounds !== null && !rounds.rest)
    heard = place
  })
  // The screen stays on while the class runs, where the browser can do that.
  $effect(() => {
    if (!running || !('wakeLock' in navigator)) return
    let lock: WakeLockSentinel | null = null
    let gone = false
    const ask = () =>
      navigator.wakeLock
        .request('screen')
        .then((found) => {
          lock = found
          if (gone) void found.release()
        })
        .catch(() => (lock = null))
    const seen = () => {
      if (document.visibilityState === 'visible') void ask()
    }
    void ask()
    document.addEventListener('visibilitychange', seen)
    return () => {
      gone = true
      document.removeEventListener('visibilitychange', seen)
      void lock?.release()
    }
  })
  const act = (name: Schemas['ActIn']['act']) =>
    asking.run(async () => {
      const body = { act: name, unit: now?.unit ?? null }
      queries.setQueryData(key, await unwrap(client.POST('/api/classes/{lesson_id}/clock', { ...path, body })))
    })
  const names = $derived(new Map((data?.coming ?? []).map((one) => [one.id, one.name])))
  const short = (id: string) => names.get(id) ?? ''
</script>

<div class="mx-auto max-w-3xl px-4 py-4">
  {#if lesson.error && !data}<p class="notice bad" role="alert">{lesson.error.message}</p>{/if}
  {#if asking.failure}<p class="notice bad mb-2" role="alert">{asking.failure}</p>{/if}
  {#if data && now}
    <p class="soft flex justify-between gap-3 text-sm">
      <a class="underline" href="#/classes/{data.id}">{data.name}</a>
      <span class="num">{countdown(now.all)} left of all</span>
    </p>
    {#if now.over || !unit}
      <h1 class="mt-4">The class is over</h1>
      <p class="mt-2"><a class="button main" href="#/classes/{data.id}">Go on to book it</a></p>
    {:else}
      <h1 class="mt-2" data-testid="unit">{unit.name}</h1>
      <p
        class="clock num"
        class:resting={rounds?.rest}
        class:ending={running && (rounds?.left ?? now.left) <= 10}
        data-testid="left"
        role="timer"
      >
        {countdown(rounds ? rounds.left : now.left)}
      </p>
      {#if rounds}<p class="text-lg">
          {rounds.rest ? 'Rest after round' : 'Round'} <span class="num">{rounds.round} of {rounds.of}</span>
          <span class="soft num">{countdown(now.left)} left of the unit</span>
        </p>{/if}
      <div class="mt-2 flex gap-2">
        <button class="button" aria-label="Back" onclick={() => act('back')}
          ><SkipBack size={22} aria-hidden="true" /></button
        >
        <button class="button main grow justify-center py-3 text-lg" onclick={() => act(running ? 'pause' : 'start')}
          >{#if running}<Pause size={22} aria-hidden="true" />Pause{:else}<Play size={22} aria-hidden="true" />{data
              .clock.all_left_s < lengths.reduce((sum, one) => sum + one, 0)
              ? 'Go on'
              : 'Start'}{/if}</button
        >
        <button class="button" aria-label="Skip to the next unit" onclick={() => act('skip')}
          ><SkipForward size={22} aria-hidden="true" /></button
        >
      </div>
      {#if following}<p class="mt-2 text-lg">Next: <b>{following.name}</b></p>{/if}
      {#if unit.how}<p class="mt-3 text-lg">{unit.how}</p>{/if}
      {#each unit.watch ?? [] as one (one.checkpoint)}
        <p class="mt-2 text-2xl leading-tight">“{one.cue}”</p>
        <p class="soft">{one.ask}</p>
      {/each}
      {#each unit.stations ?? [] as one, n (n)}
        <p class="mt-2 text-lg">
          <b>Station {n + 1}</b>
          {one.drill} <span class="soft">{one.students.map(short).join(', ')}</span>
        </p>
      {/each}
      {#if unit.partner_task}<p class="mt-2">Partner: {unit.partner_task}</p>{/if}
      {#if unit.in_pairs && data.pairs?.pairs?.length}
        <ul class="mt-3 grid grid-cols-2 gap-x-4 text-lg" data-testid="pairs">
          {#each data.pairs.pairs as pair (pair.students[0])}
            <li>{pair.students.map(short).join(' · ')}{pair.third ? ` · ${short(pair.third)}` : ''}</li>
          {/each}
        </ul>
        {#each data.pairs.alone ?? [] as one (one.student)}<p class="soft">{short(one.student)}: {one.why}</p>{/each}
      {/if}
      {#each unit.cautions ?? [] as caution (caution)}<p class="mt-1" style:color="var(--alarm)">{caution}</p>{/each}
    {/if}
    <FloorPad lesson={data.id} people={data.coming} pairs={data.pairs?.pairs ?? []} {unit} />
  {:else if lesson.isPending}<p class="soft">Opening…</p>{/if}
</div>

<style>
  .clock {
    font-size: min(27vw, 15rem);
    font-weight: 700;
    line-height: 1;
    letter-spacing: -0.04em;
  }
  .resting {
    color: var(--met);
  }
  .ending {
    color: var(--alarm);
  }
</style>
