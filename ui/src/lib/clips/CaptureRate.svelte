<script lang="ts">
  import Toggle from '../parts/Toggle.svelte'
  import { client, unwrap, type Clip } from '../api/client'
  import { captured } from '../parts/words'

  interface Props {
    clip: Clip
    /** The frame on screen, from which another rate can be set. @default none */
    frame?: number | null
    changed: () => Promise<void>
  }
  let { clip, frame = null, changed }: Props = $props()
  const RATES = [1, 2, 4, 8, 16]
  let fromHere = $state(false)
  let other = $state('')
  let failure = $state('')
  let told = $state('')

  async function set(rate: number): Promise<void> {
    failure = told = ''
    if (!(rate > 0))
      return void (failure = 'Give a number above 0: how many times longer the file lasts than it did in reality.')
    const start = fromHere && frame ? frame : 0
    const rates = [...clip.capture_rate.filter((entry) => entry.frame < start), { frame: start, rate }]
    try {
      const done = await unwrap(
        client.PUT('/api/clips/{clip_id}/capture-rate', { params: { path: { clip_id: clip.id } }, body: { rates } }),
      )
      if (done.verdicts_changed) told = `${done.verdicts_changed} verdicts of the finished review changed.`
      await changed()
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    }
  }
</script>

<div class="text-sm" data-testid="capture-rate">
  <p>
    <span class="font-semibold">{captured(clip.capture_rate)}</span>{#if clip.capture_why}<span class="soft">
        · {clip.capture_why}</span
      >{/if}
  </p>
  <div
    class="mt-2 flex flex-wrap items-center gap-2"
    role="group"
    aria-label="How many times longer the file lasts than reality"
  >
    {#each RATES as rate (rate)}
      <button class="button num" onclick={() => set(rate)}>{rate === 1 ? 'as filmed' : `${rate}× slowed`}</button>
    {/each}
    <input
      class="field num w-20"
      bind:value={other}
      inputmode="decimal"
      aria-label="Other rate"
      placeholder="other"
      onkeydown={(event) => event.key === 'Enter' && set(Number(other.replace(',', '.')))}
    />
    {#if frame}<Toggle
        label="from frame {frame} on"
        checked={fromHere}
        changed={(checked) => (fromHere = checked)}
      />{/if}
  </div>
  {#if told}<p class="mt-2" role="status">{told}</p>{/if}
  {#if failure}<p class="notice bad mt-2" role="alert">{failure}</p>{/if}
</div>
