<script lang="ts">
  import type { Schemas } from '../api/client'
  import { spoken } from '../parts/words'

  /** The choices of every option side by side: what each is for, and what it asks differently. */
  let { options }: { options: readonly Schemas['LessonOptionOut'][] } = $props()
  const told = $derived(options.filter((option) => option.changes.length > 0))
</script>

{#if told.length}
  <h2 class="mt-6">Ways to do it, side by side</h2>
  {#each told as option (option.key)}
    <div class="mt-2 overflow-x-auto">
      <table class="w-full text-sm" style="border-top: 2px solid var(--ink)" data-testid="ways-{option.key}">
        <thead>
          <tr class="rule-b text-left align-top">
            <th class="py-1.5 pr-3 font-semibold">{spoken(option.key)}</th>
            {#each option.choices as choice (choice.key)}<th class="px-2 py-1.5 font-semibold"
                >{choice.name}<span class="soft block font-normal">{choice.purpose}</span
                >{#each choice.cautions as caution (caution)}<span class="block font-normal" style="color: var(--alarm)"
                    >{caution}</span
                  >{/each}</th
              >{/each}
          </tr>
        </thead>
        <tbody>
          {#each option.changes as change (change.ask)}
            <tr class="rule-b align-top">
              <td class="py-1.5 pr-3">{change.ask}</td>
              {#each change.by_choice as asked, i (i)}<td class="px-2 py-1.5" class:soft={asked === 'not asked'}
                  >{asked}</td
                >{/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/each}
{/if}
