<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { newKey } from '../own/queue'
  import { Asking } from '../lib/api/asking.svelte'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import { beep, placeAt } from '../lib/plan/clock'
  import RoundNumbers from '../lib/plan/RoundNumbers.svelte'
  import { Tally } from '../lib/plan/tally.svelte'
  import { session } from '../lib/people/session.svelte'
  import { Ticking } from '../lib/plan/ticking.svelte'
  import { countdown } from '../lib/plan/words'

  /** A live round: a large clock with rests, and a tally by tap. */
  let { params }: { params: { round: string } } = $props()
  const queries = useQueryClient()
  const asking = new Asking()
  const key = $derived(['round', params.round])
  const path = $derived({ params: { path: { round_id: params.round } } })
  const round = createQuery(() => ({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/rounds/{round_id}', path)),
    refetchInterval: 10_000,
  }))
  const data = $derived(round.data)
  const time = new Ticking()
  $effect(() => {
    if (data) time.told(data.clock)
  })
  $effect(() => time.start())
  const lengths = $derived(
    data
      ? Array.from({ length: data.rounds }, () => [data.seconds, data.rest_s])
          .flat()
          .slice(0, -1)
      : [],
  )
  const now = $derived(data ? placeAt(data.clock, lengths, time.ahead, time.here) : null)
  const rest = $derived(now !== null && now.unit % 2 === 1)
  const number = $derived(now ? Math.floor(now.unit / 2) + 1 : 1)
  const running = $derived((data?.clock.running ?? false) && !now?.over)
  let heard = ''
  $effect(() => {
    const place = String(now?.unit)
    if (heard && heard !== place) beep(!rest)
    heard = place
  })
  const put = (answer: Promise<Schemas['RoundOut']>) => asking.run(async () => queries.setQueryData(key, await answer))
  const act = (name: Schemas['ActIn']['act']) =>
    put(unwrap(client.POST('/api/rounds/{round_id}/clock', { ...path, body: { act: name } })))
  /** The tally is sent tap after tap, in the order of the taps, and kept here while the server is away. */
  const tally = $derived(new Tally(params.round, (answer) => queries.setQueryData(key, answer)))
  $effect(() => session.whenSignedIn(() => tally.signedIn()))
  $effect(() => {
    if (tally.signedOut) void session.check()
  })
  const tap = (by: string, side: 'left' | 'right') => {
    const at_s = now && data ? Math.max(0, data.seconds - now.left) : 0
    const inRound = Math.min(number, data?.rounds ?? 1)
    tally.add({ key: newKey(), round: inRound, at_s, by, side, outcome: 'completed' })
  }
  const taps = $derived(data ? tally.with(data.taps) : [])
  const players = $derived(
    data
      ? [[data.student, data.student_name] as const, ...(data.other ? [[data.other, data.other_name] as const] : [])]
      : [],
  )
</script>

<div class="mx-auto max-w-3xl px-4 py-4">
  {#if round.error}<p class="notice bad" role="alert">{round.error.message}</p>{/if}
  {#if asking.failure}<p class="notice bad" role="alert">{asking.failure}</p>{/if}
  {#if data && now}
    <p class="soft text-sm"><a class="underline" href="#/rounds">Rounds and games</a></p>
    <h1 class="mt-1">{data.objective}</h1>
    <p class="text-lg">
      {now.over ? 'Over' : `${rest ? 'Rest after round' : 'Round'} ${number} of ${data.rounds}`}
    </p>
    <p class="clock num" style:color={rest ? 'var(--met)' : running && now.left <= 10 ? 'var(--alarm)' : null}>
      {countdown(now.left)}
    </p>
    {#if !now.over}<div class="mt-2 flex gap-2">
        <button class="button main grow justify-center py-3 text-lg" onclick={() => act(running ? 'pause' : 'start')}
          >{running ? 'Pause' : 'Start'}</button
        >
        <button class="button py-3" onclick={() => act('skip')}>Skip</button>
      </div>{/if}
    <div class="mt-4 grid grid-cols-2 gap-3">
      {#each players as [id, name] (id)}
        <div>
          <p class="text-lg font-semibold">{name}</p>
          <div class="mt-1 flex gap-2">
            <button class="button grow justify-center py-4" onclick={() => tap(id, 'left')}>left</button>
            <button class="button grow justify-center py-4" onclick={() => tap(id, 'right')}>right</button>
          </div>
        </div>
      {/each}
    </div>
    <button class="mt-2 text-sm underline" disabled={taps.length === 0} onclick={() => tally.takeBack(taps)}
      >Take the last tap back</button
    >
    {#if tally.words}<p class="soft mt-1 text-sm" role="status">{tally.words}</p>{/if}
    <RoundNumbers round={data} />
  {/if}
</div>

<style>
  .clock {
    font-size: min(27vw, 15rem);
    font-weight: 700;
    line-height: 1;
    letter-spacing: -0.04em;
  }
</style>
