<script lang="ts">
  import { Asking } from '../api/asking.svelte'
  import { client, unwrap, type Schemas } from '../api/client'
  import Dialog from '../parts/Dialog.svelte'
  import { minuteOf, timeOf, WEEKDAYS } from './words'

  /** A class that is held every week, new or changed. */
  let { weekly, today, done }: { weekly: Schemas['WeeklyOut'] | null; today: string; done: () => void } = $props()
  const asking = new Asking()
  let open = $state(true)
  // svelte-ignore state_referenced_locally
  let form = $state({
    name: weekly?.name ?? '',
    weekday: weekly?.weekday ?? 0,
    time: timeOf(weekly?.at ?? 18 * 60),
    minutes: weekly?.minutes ?? 90,
    mats: weekly?.mats ?? 10,
    since: weekly?.since ?? today,
    until: weekly?.until ?? '',
    for_children: weekly?.for_children ?? false,
    equipment: (weekly?.equipment ?? []).join(', '),
  })
  async function save(event: Event): Promise<void> {
    event.preventDefault()
    const { time, until, equipment, ...rest } = form
    const body = {
      ...rest,
      at: minuteOf(time) ?? 0,
      until: until || null,
      equipment: equipment
        .split(',')
        .map((one) => one.trim())
        .filter(Boolean),
    }
    const saved = await asking.run(() =>
      unwrap(
        weekly
          ? client.PUT('/api/classes/weekly/{weekly_id}', { params: { path: { weekly_id: weekly.id } }, body })
          : client.POST('/api/classes/weekly', { body }),
      ),
    )
    if (saved) done()
  }
</script>

<Dialog bind:open title={weekly ? `Change “${weekly.name}”` : 'A class every week'} closed={done}>
  <form class="mt-4 grid grid-cols-2 gap-x-6 gap-y-3" onsubmit={(event) => void save(event)}>
    <label class="col-span-2">Name<input class="field w-full" bind:value={form.name} maxlength="100" required /></label>
    <label
      >Weekday<select class="field w-full" bind:value={form.weekday}>
        {#each WEEKDAYS as name, i (name)}<option value={i}>{name}</option>{/each}
      </select></label
    >
    <label>Begins at<input class="field num w-full" type="time" bind:value={form.time} required /></label>
    <label
      >Minutes<input
        class="field num w-full"
        type="number"
        min="1"
        max="600"
        bind:value={form.minutes}
        required
      /></label
    >
    <label
      >Pairs at once<input
        class="field num w-full"
        type="number"
        min="1"
        max="200"
        bind:value={form.mats}
        required
      /></label
    >
    <label>First day<input class="field num w-full" type="date" bind:value={form.since} required /></label>
    <label>Last day, if there is one<input class="field num w-full" type="date" bind:value={form.until} /></label>
    <label class="col-span-2"
      >Equipment, with commas<input class="field w-full" bind:value={form.equipment} placeholder="belts, pads" /></label
    >
    <label class="col-span-2 flex items-center gap-2"
      ><input type="checkbox" bind:checked={form.for_children} />A class of children: nothing that bears on joints, neck
      or breath is planned</label
    >
    {#if asking.failure}<p class="notice bad col-span-2" role="alert">{asking.failure}</p>{/if}
    <div class="col-span-2 flex justify-end gap-3">
      <button type="button" class="button" onclick={done}>Cancel</button><button class="button main">Save</button>
    </div>
  </form>
</Dialog>
