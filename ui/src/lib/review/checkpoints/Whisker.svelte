<script lang="ts">
  import type { Judgement } from '../../api/client'

  /** The wanted range as a band and the value with its ±u as a cross on one scale. */
  interface Props {
    judgement: Judgement
    /** Pixels. @default 96 */
    width?: number
  }
  let { judgement, width = 96 }: Props = $props()

  const scale = $derived.by(() => {
    const { value, uncertainty, within, unit } = judgement
    if (value === null || uncertainty === null || !within) return null
    const [lo, hi] = within
    const near = [
      value - 2 * uncertainty,
      value + 2 * uncertainty,
      ...(lo == null ? [] : [lo]),
      ...(hi == null ? [] : [hi]),
    ]
    const span = Math.max(...near) - Math.min(...near) || 1
    let from = Math.min(...near) - span * (lo == null ? 0.35 : 0.12)
    let to = Math.max(...near) + span * (hi == null ? 0.35 : 0.12)
    if (unit === 'deg') [from, to] = [Math.max(from, -180), Math.min(to, 180)]
    const x = (v: number) => ((Math.max(from, Math.min(to, v)) - from) / (to - from)) * width
    return { x, lo: x(lo ?? from), hi: x(hi ?? to), value, u: uncertainty }
  })
  const colour = $derived(
    judgement.verdict === 'missed' ? 'var(--alarm)' : judgement.verdict === 'met' ? 'var(--met)' : 'var(--ink)',
  )
</script>

{#if scale}
  <svg {width} height="16" aria-hidden="true">
    <line x1="0" x2={width} y1="8" y2="8" stroke="var(--rule)" />
    <rect x={scale.lo} y="4.5" width={Math.max(scale.hi - scale.lo, 1)} height="7" fill="var(--rule)" />
    <line
      x1={scale.x(scale.value - scale.u)}
      x2={scale.x(scale.value + scale.u)}
      y1="8"
      y2="8"
      stroke={colour}
      stroke-width="2"
    />
    <line x1={scale.x(scale.value)} x2={scale.x(scale.value)} y1="2" y2="14" stroke={colour} stroke-width="2.6" />
  </svg>
{/if}
