<script lang="ts">
  import Check from '@lucide/svelte/icons/check'
  import Undo2 from '@lucide/svelte/icons/undo-2'
  import { useQueryClient } from '@tanstack/svelte-query'
  import { client, send, unwrap, write } from '../lib/api/client'
  import { Bench } from '../lib/review/state/bench.svelte'
  import Blind from '../lib/review/rep/Blind.svelte'
  import CheckpointList from '../lib/review/checkpoints/CheckpointList.svelte'
  import Detail from '../lib/review/checkpoints/Detail.svelte'
  import FixFirst from '../lib/review/checkpoints/FixFirst.svelte'
  import NewerVersion from '../lib/review/checkpoints/NewerVersion.svelte'
  import FinishList from '../lib/review/rep/FinishList.svelte'
  import ClipCard from '../lib/review/rep/ClipCard.svelte'
  import { bindKeys } from '../lib/review/state/keys'
  import KeyCard from '../lib/review/rep/KeyCard.svelte'
  import Picture from '../lib/review/picture/Picture.svelte'
  import RepBar from '../lib/review/rep/RepBar.svelte'
  import RepFacts from '../lib/review/rep/RepFacts.svelte'
  import Strand from '../lib/review/strand/Strand.svelte'
  import { countWork } from '../lib/plan/working'
  import Questions from '../lib/students/Questions.svelte'
  import { runs } from '../lib/jobs/jobs'
  import { session } from '../lib/people/session.svelte'

  let { params }: { params: { clip: string; rep?: string; checkpoint?: string } } = $props()
  const queries = useQueryClient()
  let bench = $state.raw<Bench | null>(null)
  let failure = $state('')
  let card = $state(false)
  let clipCard = $state(false)
  let facts = $state(false)
  let finishing = $state(false)

  async function open(clipId: string): Promise<void> {
    const path = { params: { path: { clip_id: clipId } } }
    try {
      const [clip, review, library] = await Promise.all([
        unwrap(client.GET('/api/clips/{clip_id}', path)),
        unwrap(client.POST('/api/clips/{clip_id}/review', path)),
        unwrap(client.GET('/api/techniques')),
      ])
      const opened = new Bench(clip, review, library, (error) => refused(error), session.coach?.id ?? '')
      opened.watching = !session.mayReview
      bench = opened
      if (params.rep && review.reps.some((rep) => rep.id === params.rep)) opened.choose(params.rep)
      if (params.checkpoint && opened.technique?.checkpoints.some((one) => one.id === params.checkpoint))
        opened.chooseCheckpoint(params.checkpoint)
      if (clip.has_film)
        void unwrap(client.GET('/api/clips/{clip_id}/traces', path)).then(
          (traces) => (opened.strand.traces = traces),
          (error: unknown) => opened.tell(error),
        )
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
      session.noticed(error)
    }
  }
  /** A fact of the clip has changed: read clip and review anew, and stay where the coach was. */
  async function reopen(): Promise<void> {
    const before = bench
    await open(params.clip)
    if (!before || !bench || bench === before) return
    bench.repId = before.repId
    bench.checkpointId = before.checkpointId
    bench.player.go(before.player.wanted)
    await queries.invalidateQueries({ queryKey: ['clips'] })
  }
  /** Both pictures show the same instant. */
  async function tie(): Promise<void> {
    const view = bench?.secondView
    if (!bench || !view) return void (clipCard = true)
    const path = { clip_id: bench.clip.id, other_id: view.id }
    try {
      await unwrap(
        client.PUT('/api/clips/{clip_id}/views/{other_id}', {
          params: { path },
          body: { frame: bench.player.shown, other_frame: bench.secondPlayer.shown },
        }),
      )
      await reopen()
    } catch (error) {
      bench.saver.failure = error instanceof Error ? error.message : String(error)
    }
  }
  /** What the server refused was not done: show what it has. */
  async function refused(error: unknown): Promise<void> {
    session.noticed(error)
    if (!bench) return
    bench.points.dragging = null
    const found = await client.GET('/api/reviews/{review_id}', { params: { path: { review_id: bench.review.id } } })
    if (found.data) bench.review = found.data
  }
  async function finish(): Promise<void> {
    if (!bench) return
    finishing = true
    try {
      bench.review = await send(write('post', '/api/reviews/{review_id}/finish', { review_id: bench.review.id }))
      bench.dropTool()
      bench.finishAsked = false
      await queries.invalidateQueries()
      location.hash = `#/sheet/${bench.review.id}`
    } catch (error) {
      bench.saver.failure = error instanceof Error ? error.message : String(error)
    } finally {
      finishing = false
    }
  }
  // What could not be sent as the sign-in had run out is kept, and goes out after signing in.
  $effect(() => {
    if (bench?.saver.signedOut) void session.check()
  })
  $effect(() => session.whenSignedIn(() => bench?.saver.signedIn()))
  // A new clip in the address opens its own bench.
  $effect(() => void open(params.clip))
  // Keys belong to the bench that is open.
  $effect(() =>
    bench
      ? bindKeys(
          bench,
          () => (card = !card),
          () => (clipCard = !clipCard),
          () => void tie(),
          () => (facts = !facts),
        )
      : undefined,
  )
  // While the worker tracks or draws, ask now and then how far it is.
  $effect(() => {
    if (!bench?.review.jobs.some((job) => runs(job) && ['track_points', 'draw_example'].includes(job.task))) return
    const now = bench
    const asking = setInterval(() => void now.refresh(), 400)
    return () => clearInterval(asking)
  })
  // What the rep does over the mat is read anew whenever something was saved, as long as it is looked at.
  $effect(() => {
    if (bench?.mat.shown && bench.review && bench.repId) void bench.mat.read()
  })
  $effect(() => {
    if (bench?.space.asked && bench.review && bench.repId) void bench.space.read()
  })
  $effect(() => {
    if (bench?.curves.shown && bench.review) void bench.curves.read()
  })
  // What is drawn is worked out by the server: read anew whenever something was saved, as marks follow the points.
  $effect(() => {
    if (bench?.review && bench.repId) void bench.corrections.read()
  })
  // How long a review takes tells the queue of the day; a finished one is looked at, not worked on.
  const working = $derived(bench && !bench.finished && session.mayReview ? bench.review.id : '')
  $effect(() => (working ? countWork(working) : undefined))
  // What others change in the same review shows as they do it.
  $effect(() => bench?.others.watch())
  // The line for live measuring is closed with the bench.
  $effect(() => {
    const now = bench
    return () => now?.live.close()
  })
</script>

{#if failure}<p class="notice bad m-6" role="alert">
    {failure} <a class="underline" href="#/clips">Back to the clips</a>
  </p>{/if}
{#if bench}
  <div class="bench">
    <RepBar
      {bench}
      openClip={() => (clipCard = true)}
      facts={() => (facts = !facts)}
      factsOpen={facts || bench.review.reps.length === 0}
    />
    {#if facts || (bench.review.reps.length === 0 && !bench.finished)}<RepFacts {bench} />{/if}
    <div class="sides">
      <div class="film">
        <div class="picture" style:--shape={(bench.clip.width ?? 16) / (bench.clip.height ?? 9)}>
          <Picture {bench} />
        </div>
        <Strand {bench} />
      </div>
      <div class="list">
        {#if bench.rep?.blind_of}<Blind {bench} />{:else}
          {#key bench.clip.id}<Questions clip={bench.clip.id} />{/key}
          <CheckpointList {bench} />
          <Detail {bench} />
          <FixFirst {bench} />
        {/if}
        {#key bench.review.id}<NewerVersion {bench} />{/key}
        <div
          class="foot flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-2 text-sm"
          style="background: var(--band); border-top: 1px solid var(--rule)"
        >
          <span role="status" class:alarm={bench.saver.offline} data-testid="saved">{bench.saver.words}</span>
          {#if bench.others.told}<span role="status" data-testid="others">Also changed by {bench.others.told}</span
            >{/if}
          {#if bench.saver.failure}<span role="alert" class="alarm">{bench.saver.failure}</span>{/if}
          {#if !bench.finished}
            <span class="ml-auto flex gap-2">
              <button
                class="underline disabled:opacity-40"
                disabled={!bench.history.canUndo}
                onclick={() => bench?.history.undo()}><Undo2 size={15} class="inline" aria-hidden="true" /> Undo</button
              >
              <button
                class="button main"
                disabled={finishing || bench.saver.waiting.length > 0 || bench.review.reps.length === 0}
                onclick={() => bench && (bench.finishAsked = true)}
                ><Check size={16} aria-hidden="true" /> Finish review</button
              >
            </span>
          {:else}<span class="ml-auto flex gap-2"
              ><a class="button" href="#/students/{bench.clip.student_id}">Student’s page</a
              >{#if bench.review.finished_at}<a class="button main" href="#/sheet/{bench.review.id}">Sheet</a
                >{/if}</span
            >{/if}
        </div>
      </div>
    </div>
  </div>
  <KeyCard bind:open={card} />
  <ClipCard {bench} bind:open={clipCard} changed={reopen} />
  <FinishList {bench} bind:open={bench.finishAsked} busy={finishing} finish={() => void finish()} />
{:else if !failure}<p class="soft p-6">Opening the clip…</p>{/if}

<style>
  .bench {
    display: flex;
    height: 100%;
    flex-direction: column;
  }
  .sides {
    display: grid;
    min-height: 0;
    flex: 1;
    grid-template-columns: minmax(0, 1fr) minmax(430px, 38%);
  }
  .film,
  .list {
    display: flex;
    min-height: 0;
    flex-direction: column;
  }
  .film {
    padding: 0.5rem;
  }
  .picture {
    min-height: 0;
    flex: 1;
  }
  .list {
    border-left: 1px solid var(--rule);
  }
  /* On a phone everything stands below one another: the film stays in sight, to watch, answer and speak. */
  @media (max-width: 760px) {
    .bench {
      height: auto;
    }
    .sides {
      display: block;
    }
    .film {
      display: contents;
    }
    .picture {
      max-height: 46vh;
      flex: none;
      aspect-ratio: var(--shape);
    }
    .list {
      border-left: none;
      border-top: 1px solid var(--rule);
    }
    /* Whether all is saved, what was refused and how to undo it stay in sight. */
    .foot {
      position: sticky;
      z-index: 3;
      bottom: 0;
    }
  }
  @media (max-width: 760px) and (min-height: 600px) {
    .picture {
      position: sticky;
      z-index: 3;
      top: 0;
    }
  }
  .alarm {
    color: var(--alarm);
  }
</style>
