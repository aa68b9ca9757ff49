<script lang="ts">
  import { sentence } from '../../parts/words'
  import Field from './Field.svelte'
  import type { Building } from './building.svelte'

  let { build }: { build: Building } = $props()
  const cautions = $derived(build.file.list(['cautions']).map(String))
  const aliases = $derived(build.file.list(['names', 'aliases']).map(String).join(', '))
  const SIDES = [
    ['working/other', 'the working side and the other one'],
    ['lead/rear', 'the lead side and the rear one'],
    ['near/far', 'the near side and the far one'],
  ] as const
  function alias(words: string): void {
    const names = words
      .split(',')
      .map((one) => one.trim())
      .filter(Boolean)
    build.set([['names', 'aliases'], names.length ? names : undefined])
  }
  function caution(key: string, on: boolean): void {
    build.set([['cautions'], on ? [...cautions, key] : cautions.filter((one) => one !== key)])
  }
</script>

<Field {build} label="What it is called" path={['names', 'main']} typed={(words) => build.call(words)} />
<div class="mt-3">
  <label class="text-sm font-semibold" for="aliases">Other names, with commas between</label>
  <input
    id="aliases"
    class="field mt-1 w-full"
    value={aliases}
    onchange={(event) => alias(event.currentTarget.value)}
  />
</div>
<div class="mt-3 flex flex-wrap gap-x-6">
  <label class="text-sm font-semibold"
    >Family
    <select
      class="field mt-1 block"
      value={build.file.words(['family'])}
      onchange={(event) => build.set([['family'], event.currentTarget.value])}
    >
      {#each build.parts.families as family (family)}<option>{family}</option>{/each}
    </select>
  </label>
  <label class="text-sm font-semibold"
    >It speaks of
    <select
      class="field mt-1 block"
      value={build.file.words(['sides']) || 'working/other'}
      onchange={(event) => build.set([['sides'], event.currentTarget.value])}
    >
      {#each SIDES as [value, words] (value)}<option {value}>{words}</option>{/each}
    </select>
  </label>
</div>
<Field {build} label="What it is" path={['summary']} placeholder="In a sentence or two" long optional />
<Field {build} label="When it works" path={['works_when']} long optional />
<fieldset class="mt-4">
  <legend class="text-sm font-semibold">Cautions that are shown with it</legend>
  {#each build.parts.cautions as { key, says } (key)}
    <label class="flex min-h-7 items-start gap-2 py-0.5 text-sm"
      ><input
        type="checkbox"
        class="mt-1"
        checked={cautions.includes(key)}
        onchange={(event) => caution(key, event.currentTarget.checked)}
      />{sentence(says)}</label
    >
  {/each}
</fieldset>
