<script lang="ts">
  import type { Film } from '../../api/client'
  import { filmSlots } from './strip'

  interface Props {
    /** Whose filmstrip. */
    clip: string
    film: Film
    /** First and last frame shown. */
    from: number
    to: number
    /** Size of the strip in pixels. */
    width: number
    height: number
  }
  let { clip, film, from, to, width, height }: Props = $props()
  const slots = $derived(filmSlots(film, from, to, width, height))
</script>

{#each slots as slot, i (i)}
  <div
    class="absolute top-0"
    data-film={slot.frame}
    style="left: {slot.x}px; width: {slot.width}px; height: {height}px; background: url(/api/clips/{clip}/film/{slot.level}/{slot.sheet}) {-slot.left}px {-slot.top}px / {slot.sheetWidth}px auto no-repeat; border-right: 1px solid var(--well)"
  ></div>
{/each}
