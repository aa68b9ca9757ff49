<script lang="ts">
  import { untrack } from 'svelte'
  import { seconds as spokenSeconds } from '../../parts/words'
  import type { Bench } from '../state/bench.svelte'

  interface Props {
    bench: Bench
  }
  let { bench }: Props = $props()
  const LONGEST_S = 120
  const open = $derived(bench.corrections.open)
  let recorder = $state.raw<MediaRecorder | null>(null)
  let began = 0
  let failure = $state('')
  let sending = $state(false)

  // Asked for by key: the recording begins as soon as the correction is there.
  $effect(() => {
    if (!bench.corrections.speaking || !open) return
    bench.corrections.speaking = false
    if (!untrack(() => recorder)) void record()
  })
  const focus = (node: HTMLElement) => node.focus()

  async function record(): Promise<void> {
    failure = ''
    // On an address without TLS a browser gives no page the microphone.
    if (!('mediaDevices' in navigator))
      return void (failure = 'This page gets no microphone: open it at localhost or over https.')
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ audio: true })
      const parts: Blob[] = []
      const now = new MediaRecorder(stream)
      now.ondataavailable = (event) => parts.push(event.data)
      now.onstop = () => {
        stream.getTracks().forEach((track) => track.stop())
        recorder = null
        void keep(new Blob(parts), Math.min((performance.now() - began) / 1000, LONGEST_S))
      }
      began = performance.now()
      now.start()
      recorder = now
      setTimeout(() => now.state === 'recording' && now.stop(), LONGEST_S * 1000)
    } catch {
      failure = 'The microphone was not given; allow it in the browser and try again.'
    }
  }
  async function keep(sound: Blob, seconds: number): Promise<void> {
    sending = true
    try {
      await bench.corrections.keepVoice(sound, Math.max(seconds, 0.1))
    } catch (error) {
      failure = error instanceof Error ? error.message : String(error)
    } finally {
      sending = false
    }
  }
</script>

{#if recorder}<button
    class="button"
    style="border-color: var(--alarm); color: var(--alarm)"
    use:focus
    onclick={() => recorder?.stop()}
    data-testid="record">● recording, stop</button
  >
{:else if sending}<span class="soft" role="status">Saving the voice note…</span>
{:else if open?.voice_s != null}<span>voice <span class="num">{spokenSeconds(open.voice_s)}</span></span>
  <button class="underline" onclick={() => void bench.corrections.dropVoice()}>Delete voice note</button>
{:else}<button class="underline" onclick={() => void record()} data-testid="record">Record a voice note</button>{/if}
{#if failure}<span role="alert" style="color: var(--alarm)">{failure}</span>{/if}
