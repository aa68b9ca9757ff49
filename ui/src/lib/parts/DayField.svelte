<script lang="ts">
  import { DatePicker, Portal, parseDate } from '@skeletonlabs/skeleton-svelte'
  import CalendarDays from '@lucide/svelte/icons/calendar-days'
  import ChevronLeft from '@lucide/svelte/icons/chevron-left'
  import ChevronRight from '@lucide/svelte/icons/chevron-right'

  interface Props {
    label: string
    /** ISO, or empty. */
    value: string
    changed: (value: string) => void
  }
  let { label, value, changed }: Props = $props()
  const iso = (day: { toString(): string } | undefined) => day?.toString() ?? ''
</script>

<DatePicker
  value={value ? [parseDate(value)] : []}
  onValueChange={(details) => changed(iso(details.value[0]))}
  locale="en-GB"
  startOfWeek={1}
  format={(day) => day.toString()}
  parse={(text) => (/^\d{4}-\d{2}-\d{2}$/.test(text) ? parseDate(text) : undefined)}
  placeholder="YYYY-MM-DD"
>
  <DatePicker.Label class="sr-only">{label}</DatePicker.Label>
  <DatePicker.Control class="flex items-center">
    <DatePicker.Input class="field num w-32" data-testid="day" />
    <DatePicker.Trigger class="px-1.5" aria-label="Choose a day: {label}"
      ><CalendarDays size={18} aria-hidden="true" /></DatePicker.Trigger
    >
  </DatePicker.Control>
  <Portal>
    <DatePicker.Positioner class="z-50">
      <DatePicker.Content class="floating p-3 text-sm">
        <DatePicker.View view="day">
          <DatePicker.Context>
            {#snippet children(picker)}
              <DatePicker.ViewControl class="flex items-center justify-between">
                <DatePicker.PrevTrigger class="p-1"><ChevronLeft size={18} aria-hidden="true" /></DatePicker.PrevTrigger
                >
                <DatePicker.RangeText class="num font-semibold" />
                <DatePicker.NextTrigger class="p-1"
                  ><ChevronRight size={18} aria-hidden="true" /></DatePicker.NextTrigger
                >
              </DatePicker.ViewControl>
              <DatePicker.Table class="num mt-2">
                <DatePicker.TableHead>
                  <DatePicker.TableRow
                    >{#each picker().weekDays as weekDay, i (i)}<DatePicker.TableHeader class="soft px-2 font-normal"
                        >{weekDay.short}</DatePicker.TableHeader
                      >{/each}</DatePicker.TableRow
                  >
                </DatePicker.TableHead>
                <DatePicker.TableBody>
                  {#each picker().weeks as week, i (i)}
                    <DatePicker.TableRow>
                      {#each week as day, j (j)}<DatePicker.TableCell value={day}
                          ><DatePicker.TableCellTrigger class="day">{day.day}</DatePicker.TableCellTrigger
                          ></DatePicker.TableCell
                        >{/each}
                    </DatePicker.TableRow>
                  {/each}
                </DatePicker.TableBody>
              </DatePicker.Table>
            {/snippet}
          </DatePicker.Context>
        </DatePicker.View>
      </DatePicker.Content>
    </DatePicker.Positioner>
  </Portal>
</DatePicker>

<style>
  :global(.day) {
    display: block;
    padding: 0.2rem 0.5rem;
    text-align: center;
    cursor: pointer;
  }
  :global(.day[data-selected]) {
    background: var(--performer);
    color: var(--page);
  }
  :global(.day[data-today]) {
    font-weight: 700;
  }
  :global(.day[data-outside-range]) {
    opacity: 0.4;
  }
  :global(.day:hover:not([data-selected])) {
    background: var(--band);
  }
</style>
