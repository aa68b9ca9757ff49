<script lang="ts">
  import { useQueryClient } from '@tanstack/svelte-query'
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import { tell } from '../parts/told'
  import DoseFields from './DoseFields.svelte'

  /** One drill for one fault, ready to be prescribed: the proposed one, or another one that is chosen or written here. */
  interface Props {
    student: string
    technique: string
    fault: string
    drills: Schemas['DrillChoiceOut'][]
    review?: string | null
    prescribed?: readonly string[]
    done?: () => void
  }
  let { student, technique, fault, drills, review = null, prescribed = [], done = () => undefined }: Props = $props()
  const OWN = 'own'
  const OWN_DOSE = { sets: 3, reps: 10, sides: 'one', turns: 1, rounds: 1, seconds: null, rest_s: 0 } as const
  const queries = useQueryClient()
  const asking = new Asking()
  let chosen = $state<string | null>(null)
  let name = $state('')
  let times = $state(3)
  let changed = $state<Schemas['Dose'] | null>(null)
  const answers = $derived(drills.filter((one) => !one.is_start))
  const starts = $derived(drills.filter((one) => one.is_start))
  const id = $derived(chosen ?? answers[0]?.id ?? OWN)
  const drill = $derived(drills.find((one) => one.id === id))
  const usual = $derived<Schemas['Dose']>(drill?.dose ?? OWN_DOSE)

  async function prescribe(event: Event): Promise<void> {
    event.preventDefault()
    const dose = changed ?? usual
    await asking.run(async () => {
      let use = drill
      if (!use && name.trim())
        // The academy keeps it for the next student with this fault.
        use = await unwrap(
          client.POST('/api/techniques/{technique}/drills', {
            params: { path: { technique } },
            body: { fault, name, how: '', dose },
          }),
        )
      const made = await unwrap(
        client.POST('/api/students/{student_id}/prescriptions', {
          params: { path: { student_id: student } },
          body: {
            technique,
            faults: [fault],
            dose,
            drill: use?.id ?? '',
            name: use ? '' : name,
            how: '',
            partner_task: '',
            side: 'both' as const,
            times_a_week: times,
            made_in: review ? 'review' : 'hand',
            review,
          },
        }),
      )
      tell(
        `Prescribed: ${made.name}.`,
        made.replaced ? `“${made.replaced}” has ended for it: three are open at most.` : undefined,
      )
      name = ''
      changed = null
      await queries.invalidateQueries()
      done()
    })
  }
</script>

<form class="flex flex-wrap items-center gap-x-4 gap-y-2 text-sm" onsubmit={(event) => void prescribe(event)}>
  <label class="min-w-0"
    ><span class="sr-only">Drill</span><select
      class="field max-w-full"
      value={id}
      onchange={(event) => {
        chosen = event.currentTarget.value
        changed = null
      }}
    >
      {#each answers as one (one.id)}<option value={one.id}>{one.name}{one.own ? ' (your own)' : ''}</option>{/each}
      <option value={OWN}>write one…</option>
      {#if starts.length}<optgroup label="The technique, starting from"
          >{#each starts as one (one.id)}<option value={one.id}>{one.name}</option>{/each}</optgroup
        >{/if}
    </select></label
  >
  {#if !drill}<input
      class="field grow"
      bind:value={name}
      maxlength="120"
      required
      placeholder="What to practise, in a line"
      aria-label="Drill in a line"
    />{/if}
  {#key `${id}`}<DoseFields bind:dose={() => changed ?? usual, (next) => (changed = next)} />{/key}
  <label class="inline-flex items-center gap-2"
    ><input class="field num w-14" type="number" min="1" max="21" bind:value={times} aria-label="Times a week" />times a
    week</label
  >
  <button class="button main" disabled={drill && prescribed.includes(drill.name)}
    >{drill && prescribed.includes(drill.name) ? 'Prescribed' : 'Prescribe'}</button
  >
  {#if drill?.how}<p class="soft w-full">{drill.how}</p>{/if}
  {#if asking.failure}<p class="notice bad w-full" role="alert">{asking.failure}</p>{/if}
</form>
