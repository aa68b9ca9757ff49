<script lang="ts">
  import type { Schemas } from '../api/client'
  import { spoken } from '../parts/words'
  import { shareWords } from './words'

  /** A round in numbers that a student can read too. */
  let { round }: { round: Schemas['RoundOut'] } = $props()
  const rate = (third: Schemas['ThirdOut']) =>
    `${third.a_minute.toFixed(1)} a minute (${third.interval.map((one) => one.toFixed(1)).join('–')})`
  const nameOf = (id: string) =>
    id === round.student ? round.student_name : id === round.other ? round.other_name : ''
</script>

{#each round.summaries as one (one.student)}
  <div class="mt-2 grid gap-x-8 text-sm sm:grid-cols-2" data-summary={one.student}>
    <p class="sm:col-span-2">
      <b>{one.student}</b>: <span class="num">{one.over_all.attempts}</span>
      {one.over_all.attempts === 1 ? 'attempt' : 'attempts'},
      <span class="num">{one.over_all.completed}</span> completed, <span class="num">{one.over_all.blocked}</span>
      blocked,
      <span class="num">{one.over_all.countered}</span> countered{one.over_all.unknown
        ? `, ${one.over_all.unknown} without an outcome`
        : ''}
      {#if one.completed}<span class="soft">completed {shareWords(one.completed)}</span>{/if}
    </p>
    <p>
      Mix:
      {#each Object.entries(one.mix) as [side, share] (side)}<span class="mr-3">{side} {shareWords(share)}</span>{/each}
    </p>
    <p>
      First third {rate(one.first)}, last third {rate(one.last)}
      {#if one.first.median_s != null && one.last.median_s != null}<span class="soft"
          >an attempt takes {one.first.median_s.toFixed(1)} s, then {one.last.median_s.toFixed(1)} s</span
        >{/if}
    </p>
  </div>
{/each}
{#if round.answers.length}
  <table class="mt-2 text-sm">
    <thead
      ><tr class="soft text-left"
        ><th class="pr-4 font-normal">The partner did</th><th class="pr-4 font-normal">Answered by</th><th
          class="pr-4 font-normal">Times</th
        ><th class="pr-4 font-normal">After</th><th class="font-normal">Completed</th></tr
      ></thead
    >
    <tbody>
      {#each round.answers as one, i (i)}
        <tr class="rule-b"
          ><td class="pr-4">{spoken(one.reaction)}</td><td class="pr-4"
            >{one.answer ? spoken(one.answer) : 'nothing'}</td
          ><td class="num pr-4">{one.times.count}</td><td class="num pr-4"
            >{one.median_ms == null ? '' : `${Math.round(one.median_ms)} ms`}</td
          ><td>{one.completed ? shareWords(one.completed) : ''}</td></tr
        >
      {/each}
    </tbody>
  </table>
{/if}
{#if round.game}
  <p class="mt-1 text-sm" data-testid="wins">
    {#each Object.entries(round.game.wins) as [id, wins] (id)}<span class="mr-4"
        ><b>{nameOf(id)}</b> won <span class="num">{wins}</span>
        {wins === 1 ? 'round' : 'rounds'}
        <span class="soft num"
          >points by round: {round.game.rounds.map((points) => points[id] ?? 0).join(', ')}; left {round.game.by_side[
            id
          ]?.left ?? 0}, right {round.game.by_side[id]?.right ?? 0}</span
        ></span
      >{/each}
    <span class="soft">{round.game.draws} without a winner</span>
  </p>
{/if}
