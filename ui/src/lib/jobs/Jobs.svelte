<script lang="ts">
  import { Popover, Portal } from '@skeletonlabs/skeleton-svelte'
  import Activity from '@lucide/svelte/icons/activity'
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap, type Job } from '../api/client'
  import { sentence } from '../parts/words'
  import JobProgress from './JobProgress.svelte'
  import { TASKS, runs } from './jobs'

  // Every few seconds while something runs, so that a coach sees what the worker is at from any screen.
  const jobs = createQuery(() => ({
    queryKey: ['jobs'],
    queryFn: () => unwrap(client.GET('/api/jobs')),
    refetchInterval: (query: { state: { data?: Job[] | undefined } }) => (query.state.data?.some(runs) ? 1500 : 15_000),
  }))
  const all = $derived(jobs.data ?? [])
  const running = $derived(all.filter(runs).length)
  const failed = $derived(all.filter((job) => job.state === 'failed').length)
  const label = $derived(
    [running ? `${running} running` : '', failed ? `${failed} failed` : ''].filter(Boolean).join(', '),
  )
</script>

{#if all.length > 0}
  <Popover positioning={{ placement: 'bottom-end' }}>
    <Popover.Trigger
      class="flex items-center gap-1.5 text-sm"
      aria-label="Jobs: {label}"
      data-testid="jobs"
      style={failed ? 'color: var(--alarm)' : ''}
    >
      <Activity size={16} aria-hidden="true" /> <span class="max-sm:hidden">{label}</span>
    </Popover.Trigger>
    <Portal>
      <Popover.Positioner class="z-30">
        <Popover.Content class="floating w-[30rem] max-w-[95vw] p-4">
          <Popover.Title class="text-base font-semibold">Jobs</Popover.Title>
          <ul class="mt-2 grid gap-3">
            {#each all as job (job.id)}
              <li>
                <JobProgress
                  {job}
                  ahead={job.ahead}
                  name={sentence(`${TASKS[job.task]}, ${job.clip_name}`).replace(/\.$/, '')}
                />
              </li>
            {/each}
          </ul>
        </Popover.Content>
      </Popover.Positioner>
    </Portal>
  </Popover>
{/if}
