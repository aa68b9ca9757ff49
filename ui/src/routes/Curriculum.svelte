<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query'
  import { client, unwrap } from '../lib/api/client'
  import { day, spoken } from '../lib/parts/words'

  /** Grade × technique: the rung that is asked, when it was taught and filmed, who holds it, and what is next. */
  const rows = createQuery(() => ({ queryKey: ['curriculum'], queryFn: () => unwrap(client.GET('/api/curriculum')) }))
  const grades = $derived([...new Set((rows.data ?? []).map((row) => row.grade))])
  const percent = (one: number) => `${Math.round(100 * one)} %`
</script>

<div class="mx-auto max-w-6xl px-5 py-6">
  <h1>Curriculum</h1>
  <p class="soft text-sm">
    What your <a class="underline" href="#/grades">grades</a> ask for, and where their students stand. The next layer is proposed
    when 70 % of them hold the one that was taught last; a convention.
  </p>
  {#if rows.error}<p class="notice bad mt-3" role="alert">{rows.error.message}</p>{/if}
  {#if rows.data?.length === 0}<p class="notice mt-4">
      No grade asks for a technique yet. Say on the page <a class="underline" href="#/grades">Grades</a> what each asks.
    </p>{/if}
  {#each grades as grade (grade)}
    <h2 class="mt-6">{grade}</h2>
    <div class="overflow-x-auto">
      <table class="mt-1 w-full min-w-[56rem] table-fixed text-sm">
        <colgroup
          ><col class="w-[18%]" /><col class="w-[12%]" /><col class="w-[8%]" /><col class="w-[8%]" /><col
            class="w-[18%]"
          /><col /></colgroup
        >
        <thead
          ><tr class="soft text-left" style="border-bottom: 2px solid var(--ink)"
            ><th class="py-1 pr-4 font-normal">Technique</th><th class="pr-4 font-normal">Rung asked</th><th
              class="pr-4 font-normal">Last taught</th
            ><th class="pr-4 font-normal">Last filmed</th><th class="pr-4 font-normal">Hold it</th><th
              class="font-normal">Next</th
            ></tr
          ></thead
        >
        <tbody>
          {#each (rows.data ?? []).filter((row) => row.grade === grade) as row (row.technique)}
            <tr class="rule-b align-top" data-row={row.technique}>
              <td class="py-2 pr-4"
                ><a class="inline! p-0! underline" href="#/techniques/{row.technique}">{row.name}</a></td
              >
              <td class="py-2 pr-4">{spoken(row.rung)}</td>
              <td class="num py-2 pr-4">{row.last_taught ? day(row.last_taught) : 'never'}</td>
              <td class="num py-2 pr-4">{row.last_filmed ? day(row.last_filmed) : 'never'}</td>
              <td class="py-2 pr-4"
                ><span class="num">{row.holding}</span> of <span class="num">{row.students}</span>
                {#if row.students}<span class="soft whitespace-nowrap"
                    >({percent(row.interval[0] ?? 0)} to {percent(row.interval[1] ?? 1)})</span
                  >{/if}</td
              >
              <td class="py-2">
                {#if row.next.layer}{row.next.is_new ? row.next.layer_name : `${row.next.layer_name} again`}
                  {#if row.next.start}<span class="soft">from: {row.next.start_says}</span>{/if}
                  {#if row.next.coming}<span class="soft"
                      >· {row.next.holding} of {row.next.coming} hold the last layer</span
                    >{/if}{:else}all of it{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/each}
</div>
