<script lang="ts">
  import type { Schemas } from '../api/client'
  import { Asking } from '../api/asking.svelte'
  import OverTime from '../charts/OverTime.svelte'
  import { noon, ticksTo, type Series } from '../charts/shapes'
  import Whiskers, { type Row } from '../charts/Whiskers.svelte'
  import Toggle from '../parts/Toggle.svelte'
  import { dayOf } from './days'
  import type { EyeDoor } from './door'
  import { say } from './say'
  import { KINDS, biasWords, isBiased, rateWords, scatterWords } from './words'

  /** What one's own answers say of one's eye, beside the academy's. */
  interface Props {
    eye: Schemas['EyeOut']
    door: EyeDoor
    changed: () => Promise<unknown>
  }
  let { eye, door, changed }: Props = $props()
  const asking = new Asking()
  const nameOf = (technique: string) => eye.techniques.find((one) => one.id === technique)?.name ?? technique
  const rates = $derived<Row[]>(
    eye.kinds
      .filter((one) => one.own.of > 0)
      .map((one) => ({
        name: say(KINDS[one.kind]),
        value: one.own.n / one.own.of,
        low: one.own.within[0] ?? 0,
        high: one.own.within[1] ?? 1,
        words: rateWords(one.own),
      })),
  )
  const hits = $derived<Series>({
    name: say('Right answers'),
    points: eye.weeks.map((week) => ({
      on: noon(week.day),
      value: week.hits.of ? week.hits.n / week.hits.of : 0,
      low: week.hits.within[0] ?? 0,
      high: week.hits.within[1] ?? 1,
      words: rateWords(week.hits),
    })),
  })
  /** With fewer answers than this an interval says nothing. */
  const ENOUGH = 3
  const told = (of: readonly Schemas['EyeSubjectOut'][]) =>
    of.filter((one) => one.own.n >= ENOUGH).sort((one, other) => other.own.n - one.own.n)
  const seen = $derived(eye.alarms.filter((one) => one.hits.of + one.false_alarms.of >= ENOUGH))
  const percent = (share: number) => `${Math.round(100 * share)} %`
  const use = (wanted: boolean) =>
    asking.run(async () => {
      await door.useOwn?.(wanted)
      await changed()
    })
  const naming = new Asking()
  const showName = (wanted: boolean) =>
    naming.run(async () => {
      await door.showName?.(wanted)
      await changed()
    })
</script>

{#snippet errors(
  of: readonly Schemas['EyeSubjectOut'][],
  all: Schemas['EyeSubjectOut'],
  unit: 'ms' | '°',
  name: string,
)}
  {@const few = of.length - told(of).length}
  <div class="mt-2 overflow-x-auto">
    <table class="w-full text-sm">
      <thead
        ><tr class="rule-b text-left"
          ><th class="min-w-56 py-1 pr-3 font-semibold">{name}</th><th class="px-2 text-right font-semibold"
            >{say('Answers')}</th
          ><th class="px-2 text-right font-semibold">{say('Bias (95 %)')}</th><th class="px-2 text-right font-semibold"
            >{say('Scatter (95 %)')}</th
          ><th class="px-2 text-right font-semibold">{say('Others’ bias')}</th><th class="px-2 text-right font-semibold"
            >{say('Others’ scatter')}</th
          ></tr
        ></thead
      >
      <tbody>
        {#each [all, ...told(of)] as one (`${one.technique} ${one.subject}`)}
          <tr class="rule-b" class:font-semibold={one === all}>
            <td class="py-1.5 pr-3"
              >{#if one === all}{say('All together')}{:else}<span class="soft">{nameOf(one.technique)}:</span>
                {one.says}{/if}</td
            >
            <td class="num px-2 text-right">{one.own.n}</td>
            <td class="num px-2 text-right whitespace-nowrap" style={isBiased(one.own) ? 'color: var(--alarm)' : ''}
              >{biasWords(one.own, unit)}{#if isBiased(one.own)}<span class="sr-only">, {say('not by chance')}</span> ●{/if}</td
            >
            <td class="num px-2 text-right whitespace-nowrap">{scatterWords(one.own, unit)}</td>
            <td class="num soft px-2 text-right whitespace-nowrap">{biasWords(one.others, unit)}</td>
            <td class="num soft px-2 text-right whitespace-nowrap">{scatterWords(one.others, unit)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if few > 0}<p class="soft mt-1 text-sm">
      {few === 1
        ? say('One more was answered once or twice: too few to say anything.')
        : say('{count} more were answered once or twice: too few to say anything.', { count: few })}
    </p>{/if}
{/snippet}

<section aria-labelledby="own-eye" data-testid="own-eye">
  <h2 id="own-eye">{say('Your own eye')}</h2>
  {#if eye.answers === 0 && eye.opinions === 0}
    <p class="soft mt-1">
      {say(
        'Nothing yet: after the first answers it says here how early or late you mark events, how far off you say angles, and what you miss. Others of the academy see it only together with everybody else’s, without names.',
      )}
    </p>
  {:else}
    <Whiskers
      rows={rates}
      label={say('Right answers by kind of question')}
      from={0}
      to={1}
      ticks={[0, 0.25, 0.5, 0.75, 1]}
      format={percent}
      testid="eye-rates"
    />
    {#if eye.weeks.length > 1}
      <OverTime
        series={[hits]}
        label={say('Right answers by week')}
        format={percent}
        ticks={ticksTo(1)}
        dayWords={dayOf}
        caption={say('Right answers by week, with their 95 % interval')}
        gapDays={28}
      />
    {/if}
    <table class="mt-2 text-sm">
      <caption class="sr-only">{say('Right answers by kind of question, yours and the others’')}</caption>
      <thead
        ><tr class="rule-b text-left"
          ><th class="py-1 pr-3 font-semibold">{say('Question')}</th><th class="px-2 text-right font-semibold"
            >{say('You')}</th
          ><th class="px-2 text-right font-semibold">{say('The others')}</th></tr
        ></thead
      >
      <tbody
        >{#each eye.kinds as one (one.kind)}<tr class="rule-b"
            ><td class="py-1 pr-3">{say(KINDS[one.kind])}</td><td class="num px-2 text-right">{rateWords(one.own)}</td
            ><td class="num soft px-2 text-right">{rateWords(one.others)}</td></tr
          >{/each}</tbody
      >
    </table>
    {#if eye.kinds.every((one) => one.others.of === 0)}<p class="soft mt-1 max-w-2xl text-sm" data-testid="eye-too-few">
        {say('The answers of the others are shown once at least {count} other people have answered.', {
          count: eye.least_others,
        })}
      </p>{/if}
    {#if door.showName}
      <div class="mt-4" data-testid="eye-named">
        {#if eye.named.colleagues.length}
          <h3 class="font-semibold">Colleagues who show their eye</h3>
          <div class="overflow-x-auto">
            <table class="w-full text-sm">
              <thead
                ><tr class="rule-b text-left"
                  ><th class="py-1 pr-3 font-semibold">Name</th><th class="px-2 text-right font-semibold"
                    >Right answers</th
                  ><th class="px-2 text-right font-semibold">Events: bias</th><th class="px-2 text-right font-semibold"
                    >Events: scatter</th
                  ><th class="px-2 text-right font-semibold">Angles: bias</th><th class="px-2 text-right font-semibold"
                    >Angles: scatter</th
                  ></tr
                ></thead
              >
              <tbody
                >{#each eye.named.colleagues as one (one.name)}<tr class="rule-b"
                    ><td class="py-1.5 pr-3">{one.name}</td>
                    {#each [rateWords(one.hits), biasWords(one.events, 'ms'), scatterWords(one.events, 'ms'), biasWords(one.angles, '°'), scatterWords(one.angles, '°')] as words, i (i)}<td
                        class="num px-2 text-right whitespace-nowrap">{words}</td
                      >{/each}</tr
                  >{/each}</tbody
              >
            </table>
          </div>
        {/if}
        <div class="mt-2 text-sm">
          <Toggle
            label="Show my eye by name to those who teach here"
            checked={eye.named.is_named}
            changed={(checked) => void showName(checked)}
          />
          {#if !eye.named.is_named}<p class="soft mt-1">
              Until you do, your answers are shown only together with those of at least two others.
            </p>{/if}
          {#if naming.failure}<p class="notice bad mt-2" role="alert">{naming.failure}</p>{/if}
        </div>
      </div>
    {/if}
    {#if eye.events.own.n > 0}
      <h3 class="mt-4 font-semibold">{say('Events')}</h3>
      <p class="soft text-sm">
        {say('Plus is late, minus is early. A bias marked ● is not by chance: its interval does not hold 0.')}
      </p>
      {@render errors(eye.by_event, eye.events, 'ms', say('Event'))}
      {#if door.useOwn}
        <div class="band mt-3 max-w-2xl p-3 text-sm" data-testid="own-events">
          {#if eye.own_events.sigma_s == null}
            <p>
              From {eye.own_events.least} marked events on, your own scatter can take the place of the default in your reviews.
              You have marked {eye.own_events.answers}.
            </p>
          {:else}
            <Toggle
              label="Use my own scatter for events in my reviews"
              checked={eye.own_events.is_used}
              changed={(checked) => void use(checked)}
            />
            <p class="soft mt-1">
              Yours is <b class="num">{(1000 * eye.own_events.sigma_s).toFixed(0)} ms</b> from {eye.own_events.answers}
              answers. {eye.own_events.is_used
                ? 'Times in your open reviews are judged with it.'
                : 'Times are judged with the default until you choose so.'}
              Finished reviews stay as they were.
            </p>
          {/if}
          {#if asking.failure}<p class="notice bad mt-2" role="alert">{asking.failure}</p>{/if}
        </div>
      {/if}
    {/if}
    {#if eye.angles.own.n > 0}
      <h3 class="mt-4 font-semibold">{say('Angles')}</h3>
      <p class="soft text-sm">
        {say('As you said them first. Once the wanted range was shown: bias {bias}, scatter {scatter}.', {
          bias: biasWords(eye.helped, '°'),
          scatter: scatterWords(eye.helped, '°'),
        })}
      </p>
      {@render errors(eye.by_angle, eye.angles, '°', say('Angle'))}
    {/if}
    {#if seen.length}
      <h3 class="mt-4 font-semibold">{say('What you see of each checkpoint')}</h3>
      {#if eye.opinions > 0}<p class="soft text-sm">
          {eye.opinions === 1 ? 'One second opinion counts' : `${eye.opinions} second opinions count`} here too, where the
          review had measured it firmly.
        </p>{/if}
      <div class="mt-1 overflow-x-auto">
        <table class="w-full text-sm">
          <thead
            ><tr class="rule-b text-left"
              ><th class="py-1 pr-3 font-semibold">{say('Checkpoint')}</th><th class="px-2 text-right font-semibold"
                >{say('Seen where it was missed')}</th
              ><th class="px-2 text-right font-semibold">{say('Named where it was not')}</th></tr
            ></thead
          >
          <tbody
            >{#each seen as one (`${one.technique} ${one.checkpoint}`)}<tr class="rule-b"
                ><td class="py-1.5 pr-3"><span class="soft">{nameOf(one.technique)}:</span> {one.says}</td><td
                  class="num px-2 text-right whitespace-nowrap">{rateWords(one.hits)}</td
                ><td class="num px-2 text-right whitespace-nowrap">{rateWords(one.false_alarms)}</td></tr
              >{/each}</tbody
          >
        </table>
      </div>
    {/if}
    {#if eye.weeks.length}<details class="mt-4 text-sm">
        <summary class="underline">{say('Week by week, as a list')}</summary>
        <ul class="mt-1">
          {#each eye.weeks as week (week.day)}<li>
              {say('Week of {day}', { day: dayOf(noon(week.day)) })}: {rateWords(week.hits)}{week.events_ms == null
                ? ''
                : `, ${say('events {ms} ms off', { ms: week.events_ms.toFixed(0) })}`}{week.angles_deg == null
                ? ''
                : `, ${say('angles {degrees}° off', { degrees: week.angles_deg.toFixed(0) })}`}
            </li>{/each}
        </ul>
      </details>{/if}
  {/if}
</section>
