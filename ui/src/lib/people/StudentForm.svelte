<script lang="ts">
  import { createQuery, useQueryClient } from '@tanstack/svelte-query'
  import { ApiError, client, unwrap, type Student } from '../api/client'
  import { Asking } from '../api/asking.svelte'
  import Dialog from '../parts/Dialog.svelte'
  import Segments from '../parts/Segments.svelte'
  import Toggle from '../parts/Toggle.svelte'
  import { tell } from '../parts/told'
  import { LANGUAGES } from '../students/languages'
  import { HEIGHT, WEIGHT, keptHeight, keptWeight, shownHeight, shownWeight, words, type Units } from './units'

  /** What is known of a student, to be written down or changed. */
  interface Props {
    /** Nobody yet: a new one is added. */
    student?: Student | undefined
    name?: string
    closed: () => void
    saved?: (student: Student) => void
  }
  let { student, name: proposed = '', closed, saved = () => undefined }: Props = $props()
  const queries = useQueryClient()
  const settings = createQuery(() => ({
    queryKey: ['academy-settings'],
    queryFn: () => unwrap(client.GET('/api/academy/settings')),
  }))
  const units = $derived<Units>(settings.data?.units === 'imperial' ? 'imperial' : 'metric')
  // What is typed is the form's own: a list that is fetched anew meanwhile changes nothing of it.
  // svelte-ignore state_referenced_locally
  const before = student
  // svelte-ignore state_referenced_locally
  let name = $state(before?.name ?? proposed)
  let born = $state(before?.born_on ?? '')
  let side = $state<'both' | 'left' | 'right'>((before?.side_policy as 'both') ?? 'both')
  let height = $state<number | null>()
  let weight = $state<number | null>()
  let groups = $state(before?.groups.join(', ') ?? '')
  let equipment = $state(before?.equipment.join(', ') ?? '')
  let email = $state(before?.email ?? '')
  let guardian = $state(before?.guardian ?? '')
  let guardianEmail = $state(before?.guardian_email ?? '')
  let note = $state(before?.note ?? '')
  let language = $state(before?.language ?? '')
  let lends = $state(before?.lends_pictures ?? false)
  let double = $state('')
  const asking = new Asking()

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault()
    const kept = {
      name,
      born_on: born || null,
      side_policy: side,
      height_cm: height === undefined ? (before?.height_cm ?? null) : keptHeight(height, units),
      weight_kg: weight === undefined ? (before?.weight_kg ?? null) : keptWeight(weight, units),
      groups: words(groups),
      equipment: words(equipment),
      email,
      guardian,
      guardian_email: guardianEmail,
      note,
      language,
      lends_pictures: lends,
    }
    await asking.run(async () => {
      try {
        const made = before
          ? await unwrap(
              client.PATCH('/api/students/{student_id}', { params: { path: { student_id: before.id } }, body: kept }),
            )
          : await unwrap(client.POST('/api/students', { body: { ...kept, sure: double !== '' } }))
        await queries.invalidateQueries()
        tell('Saved.')
        saved(made)
        closed()
      } catch (error) {
        if (!(error instanceof ApiError) || error.code !== 'likely_double') throw error
        double = error.message
      }
    })
  }
</script>

<Dialog open title={before ? `Edit ${before.name}` : 'Add a student'} {closed}>
  <form class="mt-4 flex flex-col gap-4" aria-label="Student" onsubmit={save}>
    <div class="grid gap-4 sm:grid-cols-2">
      <label class="flex flex-col gap-1"
        >Name<input class="field" maxlength="100" required bind:value={name} oninput={() => (double = '')} /></label
      >
      <label class="flex flex-col gap-1">Born on<input class="field num" type="date" bind:value={born} /></label>
      <label class="flex flex-col gap-1"
        >Height, {HEIGHT[units]}<input
          class="field num"
          type="number"
          step="0.1"
          min="0"
          value={height === undefined ? shownHeight(before?.height_cm ?? null, units) : height}
          oninput={(event) => (height = event.currentTarget.value ? event.currentTarget.valueAsNumber : null)}
        /></label
      >
      <label class="flex flex-col gap-1"
        >Weight, {WEIGHT[units]}<input
          class="field num"
          type="number"
          step="0.1"
          min="0"
          value={weight === undefined ? shownWeight(before?.weight_kg ?? null, units) : weight}
          oninput={(event) => (weight = event.currentTarget.value ? event.currentTarget.valueAsNumber : null)}
        /></label
      >
      <div class="flex flex-col gap-1">
        <span aria-hidden="true">Which sides are practised</span><Segments
          label="Which sides are practised"
          choices={[
            ['both', 'both'],
            ['left', 'left'],
            ['right', 'right'],
          ]}
          value={side}
          changed={(next) => (side = next)}
        />
      </div>
      <label class="flex flex-col gap-1"
        >E-mail<input class="field" type="email" maxlength="254" bind:value={email} /></label
      >
      <label class="flex flex-col gap-1"
        >Groups<input class="field" placeholder="Tuesday, kids" bind:value={groups} /></label
      >
      <label class="flex flex-col gap-1"
        >Equipment at home<input class="field" placeholder="mat, bag, a partner" bind:value={equipment} /></label
      >
      <label class="flex flex-col gap-1"
        >Language of their sheets and page<select class="field" bind:value={language}
          ><option value="">the academy’s</option>{#each LANGUAGES as [code, name] (code)}<option value={code}
              >{name}</option
            >{/each}</select
        ></label
      >
      <label class="flex flex-col gap-1"
        >Guardian, for a child<input class="field" maxlength="100" bind:value={guardian} /></label
      >
      <label class="flex flex-col gap-1"
        >Guardian’s e-mail<input class="field" type="email" maxlength="254" bind:value={guardianEmail} /></label
      >
    </div>
    <label class="flex flex-col gap-1"
      >Notes<textarea class="field" rows="2" maxlength="2000" bind:value={note}></textarea></label
    >
    <Toggle
      label="Their pictures may stand beside another student’s correction"
      checked={lends}
      changed={(next) => (lends = next)}
    />
    {#if double}<p class="notice" role="alert">{double} If this is somebody else, add them anyway.</p>{/if}
    {#if asking.failure}<p class="notice bad" role="alert">{asking.failure}</p>{/if}
    <div class="flex justify-end gap-3">
      <button type="button" class="button" onclick={closed}>Cancel</button>
      <button class="button main">{before ? 'Save' : double ? 'Add anyway' : 'Add'}</button>
    </div>
  </form>
</Dialog>
