<script lang="ts">
  import Combobox from '../lib/parts/Combobox.svelte'
  import Segments from '../lib/parts/Segments.svelte'
  import { createQuery, keepPreviousData } from '@tanstack/svelte-query'
  import { client, unwrap, type Schemas } from '../lib/api/client'
  import About from '../lib/techniques/About.svelte'
  import Adaptations from '../lib/techniques/Adaptations.svelte'
  import Answers from '../lib/progress/Answers.svelte'
  import FaultTable from '../lib/progress/FaultTable.svelte'
  import FixFirst from '../lib/progress/FixFirst.svelte'
  import GradeProgress from '../lib/progress/GradeProgress.svelte'
  import Notes from '../lib/progress/Notes.svelte'
  import Rungs from '../lib/progress/Rungs.svelte'
  import CorrectionPicture from '../lib/parts/CorrectionPicture.svelte'
  import { session } from '../lib/people/session.svelte'
  import FloorNotes from '../lib/plan/FloorNotes.svelte'
  import Feed from '../lib/plan/Feed.svelte'
  import Practice from '../lib/plan/Practice.svelte'
  import StudentRounds from '../lib/plan/StudentRounds.svelte'
  import Consents from '../lib/students/Consents.svelte'
  import OwnLinks from '../lib/students/OwnLinks.svelte'
  import StudentActs from '../lib/people/StudentActs.svelte'
  import { ageWords } from '../lib/people/units'
  import { longDay, spoken } from '../lib/parts/words'

  let { params }: { params: { student: string } } = $props()
  type Filters = { technique?: string; side?: 'left' | 'right'; pace?: 'slow' | 'full'; rung?: string }
  let filters = $state<Filters>({})
  const page = createQuery(() => ({
    queryKey: ['student', params.student, filters],
    queryFn: () =>
      unwrap(
        client.GET('/api/students/{student_id}', { params: { path: { student_id: params.student }, query: filters } }),
      ),
    placeholderData: keepPreviousData,
    refetchInterval: (query: { state: { data?: Schemas['StudentPageOut'] | undefined } }) =>
      query.state.data?.corrections.some((c) => !c.has_still && !c.still_failed) ? 1000 : false,
  }))
  const data = $derived(page.data)
  const filtered = $derived(Object.keys(filters).length > 0)
  const execution = $derived((data?.faults ?? []).filter((fault) => !fault.entry))
  const wrongChoices = $derived((data?.faults ?? []).filter((fault) => fault.entry))
  const rungs = $derived([
    ...new Set(
      (data?.techniques ?? [])
        .filter((one) => !filters.technique || one.id === filters.technique)
        .flatMap((one) => one.rungs),
    ),
  ])
  function set(key: keyof Filters, value: string): void {
    const next: Record<string, string> = { ...filters }
    if (value) next[key] = value
    else delete next[key]
    filters = next
  }
  const value = (event: Event) => (event.currentTarget as HTMLSelectElement).value
</script>

<div class="mx-auto max-w-6xl px-4 py-6">
  {#if page.error}<p class="notice bad" role="alert">{page.error.message}</p>{/if}
  {#if data}
    <div class="flex flex-wrap items-baseline gap-x-6 gap-y-1">
      <h1>{data.student.name}</h1>
      {#if ageWords(data.student.born_on)}<span class="soft num">{ageWords(data.student.born_on)}</span>{/if}
      {#if data.student.archived_at}<span class="soft">archived</span>{/if}
      <span class="ml-auto"
        >{#key params.student}<StudentActs student={data.student} />{/key}</span
      >
    </div>
    {#if data.student.note}<p class="soft">{data.student.note}</p>{/if}

    {#if !filtered}{#key params.student}<FixFirst student={params.student} faults={data.faults} />{/key}
      {#key params.student}<Practice student={params.student} faults={data.faults} />{/key}
      {#key params.student}<StudentRounds student={params.student} />{/key}
      {#key params.student}<FloorNotes student={params.student} name={data.student.name} />{/key}{/if}

    <div class="mt-6 flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <h2>What keeps coming back</h2>
      {#if data.techniques.length}
        <span class="flex flex-wrap gap-2 text-sm" role="group" aria-label="Which reps count">
          <Combobox
            label="Technique"
            items={[
              { value: '', label: 'all techniques' },
              ...data.techniques.map((one) => ({ value: one.id, label: one.name })),
            ]}
            value={filters.technique ?? ''}
            changed={(id) => set('technique', id)}
            placeholder="all techniques"
            testid="filter-technique"
            width="w-44"
          />
          <Segments
            label="Side"
            choices={[
              ['', 'both sides'],
              ['right', 'right'],
              ['left', 'left'],
            ]}
            value={filters.side ?? ''}
            changed={(side) => set('side', side)}
            testid="filter-side"
          />
          <Segments
            label="Pace"
            choices={[
              ['', 'every pace'],
              ['slow', 'slow'],
              ['full', 'full'],
            ]}
            value={filters.pace ?? ''}
            changed={(pace) => set('pace', pace)}
            testid="filter-pace"
          />
          <label
            ><span class="sr-only">Rung</span><select
              class="field"
              value={filters.rung ?? ''}
              onchange={(event) => set('rung', value(event))}
              ><option value="">every rung</option>{#each rungs as rung (rung)}<option value={rung}
                  >{spoken(rung)}</option
                >{/each}</select
            ></label
          >
          {#if filtered}<button class="underline" onclick={() => (filters = {})}>Clear filters</button>{/if}
        </span>
      {/if}
    </div>
    {#if data.faults.length === 0}
      <p class="notice mt-2">
        {filtered
          ? 'Nothing was missed in these reps.'
          : 'Nothing has been missed in a finished review yet. Open a clip on the bench, judge its reps and finish the review: what was missed appears here.'}
      </p>
    {:else}
      {#if execution.length}<FaultTable student={params.student} faults={execution} dates={data.dates} {filters} />{/if}
      {#if wrongChoices.length}
        <h2 class="mt-8">Wrong choices</h2>
        <p class="soft text-sm">
          Tried where it was not open. How such a rep was done is not counted: first the choice, then the technique.
        </p>
        <FaultTable
          student={params.student}
          faults={wrongChoices}
          dates={data.dates}
          {filters}
          legend={!execution.length}
        />
      {/if}
    {/if}

    {#key params.student}<Answers student={params.student} {filters} />{/key}

    {#if data.families.length}
      <h2 class="mt-8">Habits over all techniques</h2>
      <p class="soft text-sm">Faults of one kind, added up over the techniques: what no single one shows.</p>
      <FaultTable student={params.student} faults={data.families} dates={data.dates} {filters} legend={false} />
    {/if}

    {#key params.student}<Rungs student={params.student} />{/key}
    {#key params.student}<GradeProgress student={params.student} />{/key}
    {#key params.student}<Notes student={params.student} />{/key}

    {#if data.corrections.length}
      <h2 class="mt-8">Corrections</h2>
      <ul class="mt-3 grid gap-6 sm:grid-cols-2">
        {#each data.corrections as correction (correction.id)}
          <li>
            <CorrectionPicture {correction} />
            <p class="mt-2 text-lg">“{correction.cue}”</p>
            <p class="soft text-sm">{correction.ask}. {correction.why}.</p>
            <p class="soft text-sm">
              {correction.technique_name}, {longDay(correction.filmed_on)}, frame
              <span class="num">{correction.frame}</span>
            </p>
          </li>
        {/each}
      </ul>
    {/if}

    {#key params.student}<Adaptations student={params.student} />{/key}
    {#if session.mayReview}{#key data.student.id}<OwnLinks student={data.student} /><Consents
          student={data.student}
        /><Feed student={data.student.id} />{/key}{/if}
    {#key data.student.id}<About student={data.student} />{/key}

    {#if data.cautions.length}
      <section class="notice bad mt-8" aria-label="Cautions">
        <h2>With care</h2>
        <ul class="mt-1 list-disc pl-5 text-sm">
          {#each data.cautions as caution (caution)}<li>{caution}</li>{/each}
        </ul>
        <p class="soft mt-2 text-sm">Lacertus measures pictures. It is no medical or safety device.</p>
      </section>
    {/if}
  {:else if page.isPending}<p class="soft">Opening…</p>{/if}
</div>

<style>
  .notice.bad {
    color: inherit;
    font-weight: inherit;
  }
</style>
