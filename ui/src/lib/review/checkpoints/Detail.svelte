<script lang="ts">
  import JobProgress from '../../jobs/JobProgress.svelte'
  import { VERDICTS } from '../../parts/labels'
  import { saidWords, sentence, shown, shownWith, spoken, wanted, restsOn } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'
  import CorrectionCard from '../corrections/CorrectionCard.svelte'
  import Overrule from './Overrule.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const checkpoint = $derived(bench.checkpoint)
  /** The verdicts that the last change moved, in words. */
  const words = $derived.by(() => {
    const told = bench.changed.map((one) => {
      const rep = bench.review.reps.find((other) => other.id === one.rep)
      const asked = bench.review.techniques.find((other) => other.id === rep?.technique)?.checkpoints ?? []
      const ask = asked.find((other) => other.id === one.checkpoint)?.ask ?? one.checkpoint
      const where = rep && rep.id !== bench.repId ? `rep ${bench.numberOf(rep)}, ` : ''
      return `${where}${ask}: ${VERDICTS[one.before]} → ${VERDICTS[one.now]}`
    })
    return told.length > 3 ? `${told.slice(0, 3).join('; ')}; and ${told.length - 3} more` : told.join('; ')
  })
  const judgement = $derived(bench.judgement)
  const missing = $derived(bench.points.needs.filter((need) => !need.point))
  const times = $derived(
    checkpoint?.kind === 'reaction' ? (bench.rep?.reacted.filter((one) => one.id === checkpoint.id) ?? []) : [],
  )
  /** Of a reaction: its event and those of the answers, to be marked where they are seen. */
  const reactionEvents = $derived(
    checkpoint?.kind === 'reaction'
      ? (bench.technique?.events.filter((event) => checkpoint.at.includes(event.key)) ?? [])
      : [],
  )
  const byEye = $derived(
    checkpoint?.by_eye ||
      (checkpoint?.eye_instead && (judgement?.kind === 'seen' || judgement?.verdict === 'not_seen')),
  )
  const said = $derived(
    bench.review.said.filter(
      (one) => one.checkpoint === checkpoint?.id && (bench.technique?.id ?? one.technique) === one.technique,
    ),
  )
</script>

{#if words}<p class="px-4 py-1 text-sm" style="border-top: 1px solid var(--rule)" role="status" data-testid="changed">
    <b>Changed:</b>
    {words}
  </p>{/if}
{#if checkpoint}
  <section
    class="px-4 py-2"
    style="border-top: 2px solid var(--ink)"
    aria-label="Current checkpoint"
    data-testid="detail"
  >
    <div class="flex items-baseline gap-3">
      <h2 class="leading-tight">{checkpoint.ask}</h2>
      {#if bench.rep && !checkpoint.by_eye}<span class="ml-auto flex gap-3 whitespace-nowrap text-sm"
          ><button class="underline" aria-pressed={bench.curves.asked} onclick={() => bench.curves.toggle()}
            >Curve</button
          ><a class="underline" href="#/compare/rep.{bench.rep.id}?checkpoint={checkpoint.id}">Compare</a></span
        >{/if}
      {#if judgement}
        <span
          class="{bench.rep && !checkpoint.by_eye ? '' : 'ml-auto'} whitespace-nowrap text-sm font-semibold"
          style="color: {judgement.counts_as_missed
            ? 'var(--alarm)'
            : judgement.verdict === 'met'
              ? 'var(--met)'
              : 'var(--ink)'}"
          data-testid="verdict">{VERDICTS[judgement.verdict]}</span
        >
      {/if}
    </div>
    {#if bench.corrections.openId}
      <CorrectionCard {bench} />
    {:else if bench.marking.overruling}
      <Overrule {bench} />
    {:else}
      {#if judgement?.measured}<p class="text-sm" data-testid="overruled">
          <b>You say {VERDICTS[judgement.verdict]}</b>, measured {VERDICTS[judgement.measured]}: “{judgement.because}”
        </p>{/if}
      {#if judgement?.reason}<p class="text-sm" data-testid="reason">{sentence(judgement.reason)}</p>{/if}
      {#if byEye && !checkpoint.by_eye && checkpoint.look_for}<p class="soft text-sm">
          By eye: {sentence(checkpoint.look_for)}
        </p>{/if}
      {#each said as one (one.id)}<p class="text-sm" data-testid="said"><b>The student</b>: {saidWords(one)}</p>{/each}
      <p class="soft text-sm">
        {#if times.length}
          {#each times as one, i (i)}<span class="block" data-testid="reacted"
              >{#if one.frame === null}{VERDICTS[one.verdict]}{:else}Frame <span class="num">{one.frame}</span>:
                {one.answer ? spoken(one.answer) : 'no answer'}{#if one.latency_ms !== null}{' '}after
                  <span class="num">{shown(one.latency_ms, 'ms')} ±{shown(one.u_ms ?? 0, 'ms')}</span>{/if}, {VERDICTS[
                  one.verdict
                ]}.{/if}</span
            >{/each}
        {:else if checkpoint.by_eye}{checkpoint.look_for ? sentence(checkpoint.look_for) : ''}
        {:else}
          {#if checkpoint.within}Wanted {wanted(
              checkpoint.within,
              checkpoint.unit,
            )}{#if judgement && judgement.value !== null}, seen <span class="num"
                >{shownWith(judgement.value, judgement.uncertainty ?? 0, judgement.unit)}</span
              >{/if}.{/if}
          {#if judgement?.view}<b>Read from the other view, “{judgement.view}”</b>, what this clip shows at frame
            <span class="num">{judgement.frames.join(' and ')}</span>.
          {:else if judgement?.frames.length}Read at frame <span class="num">{judgement.frames.join(' and ')}</span
            >.{/if}
          {judgement?.notes.map(sentence).join(' ')}
          {#if judgement?.unit === 'ms' && judgement.value !== null && bench.review.own_events_ms !== null}<span
              class="block"
              data-testid="own-events"
              >Events are taken as the coach marks them: to ±{bench.review.own_events_ms.toFixed(0)} ms (<a
                class="underline"
                href="#/eye">own scatter</a
              >).</span
            >{/if}
          {#if judgement?.rests_on.length}<span class="block" data-testid="rests-on"
              >Rests on {restsOn(judgement.rests_on)}.{#if judgement.to_settle}{' '}To settle it, {judgement.to_settle}.{/if}</span
            >{/if}
        {/if}
      </p>
      {#if bench.tracking.job && bench.tracking.job.state !== 'done'}<div data-testid="tracking">
          <JobProgress job={bench.tracking.job} changed={() => bench.refresh()} />
        </div>
      {:else if bench.tracking.lost.length && bench.tool === 'look'}<p class="soft text-sm" data-testid="lost">
          {sentence(bench.tracking.lost[0] ?? '')}{bench.tracking.lost.length > 1
            ? ` And ${bench.tracking.lost.length - 1} more.`
            : ''}
        </p>{/if}
      {#if reactionEvents.length && bench.rep && !bench.finished}
        <div class="mt-1 flex flex-wrap gap-1 text-sm" role="group" aria-label="Mark at this frame">
          {#each reactionEvents as event (event.key)}
            {@const frames = bench.rep.events[event.key]}
            <button
              class="chip"
              class:placed={frames !== undefined}
              title={event.mark}
              onclick={() => bench.marking.markAlso(event.key)}
              >{event.body === 'partner' ? 'partner: ' : ''}{spoken(event.key)}{#if frames?.length}{' '}<span
                  class="num">{frames.join(', ')}</span
                >{:else if frames}: no{/if}</button
            ><button
              class="soft"
              title="It did not happen"
              aria-label="{spoken(event.key)} did not happen"
              onclick={() => bench.marking.didNotHappen(event.key)}>✕</button
            >
          {/each}
        </div>
      {/if}
      <p class="mt-1 text-[1.05rem] leading-tight">
        “{checkpoint.cues[0]}” <span class="soft text-sm">{sentence(checkpoint.why)}</span>
      </p>
      {#if bench.tool === 'points' && bench.points.needs.length}
        <div class="mt-1 flex flex-wrap gap-1" aria-label="Points">
          {#each bench.points.needs as need (need.body + need.landmark + need.spot?.frame)}
            <button
              class="chip"
              class:placed={need.point}
              class:asked={bench.points.asked?.landmark === need.landmark && bench.points.asked.body === need.body}
              disabled={!need.spot}
              onclick={() => {
                if (need.spot) {
                  bench.player.go(need.spot.frame)
                  bench.points.picked = need.point ? null : { body: need.body, landmark: need.landmark }
                  bench.points.selected = need.point ? need.spot : null
                }
              }}
            >
              {need.body === 'partner' ? 'partner’s ' : ''}{spoken(need.landmark)}
            </button>
          {/each}
        </div>
      {/if}
      <div class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm">
        {#if byEye && !bench.finished && bench.rep}
          <button class="action tall" onclick={() => bench.marking.answer(true)}
            ><kbd>Y</kbd> Yes, as it should be</button
          >
          <button class="action tall" onclick={() => bench.marking.answer(false)}><kbd>N</kbd> no</button>
        {/if}
        {#if bench.rep?.needs.length && !bench.finished}
          <button class="action" class:on={bench.tool === 'points'} onclick={() => bench.take('points')}
            ><kbd>P</kbd>
            {missing.length
              ? `place points (${missing.length} to go)`
              : bench.points.needs.length
                ? 'move points'
                : 'place points'}</button
          >
        {/if}
        {#if bench.tracking.can}
          <button class="action" onclick={() => bench.tracking.start()}
            ><kbd>K</kbd>
            {bench.rep?.points.some((point) => point.by === 'placed')
              ? 'track points'
              : 'find points as in the last rep'}</button
          >
          {#if bench.rep?.points.some((point) => point.by === 'tracked')}<button
              class="action"
              onclick={() => bench.tracking.remove()}>Remove tracked points</button
            >{/if}
        {/if}
        {#if judgement && judgement.verdict !== 'not_asked' && !bench.finished}<button
            class="action"
            onclick={() => (bench.marking.overruling = true)}><kbd>O</kbd> overrule</button
          >{/if}
        {#if bench.corrections.can}<button class="action md:hidden" onclick={() => bench.corrections.speak()}
            ><kbd>⇧V</kbd> speak over it</button
          >{/if}
        {#if bench.corrections.can}<button class="action" onclick={() => bench.corrections.drawDefault()}
            ><kbd>C</kbd>
            {bench.corrections.ofRep.some((one) => one.checkpoint === checkpoint.id) ? 'correction' : 'correct'}</button
          >{/if}
        <button class="action" onclick={() => bench.stepCheckpoint(1)}><kbd>↓</kbd> next</button>
      </div>
    {/if}
  </section>
{/if}

<style>
  .action:hover {
    text-decoration: underline;
  }
  @media (max-width: 760px) {
    .action.tall {
      padding: 0.5rem 0.9rem;
      border: 1px solid var(--ink);
    }
  }
  .action.on {
    font-weight: 650;
    color: var(--performer);
  }
</style>
