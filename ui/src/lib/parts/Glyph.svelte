<script lang="ts">
  import { VERDICTS, type Verdict } from './labels'

  /** A verdict's own glyph; never colour alone. */
  interface Props {
    verdict: string
    /** @default 14 pixels */
    size?: number
  }
  let { verdict, size = 14 }: Props = $props()
</script>

<svg width={size} height={size} viewBox="0 0 16 16" role="img" aria-label={VERDICTS[verdict as Verdict] ?? verdict}>
  {#if verdict === 'met'}
    <path d="M2 9l4 4 8-10" fill="none" stroke="var(--met)" stroke-width="2.4" />
  {:else if verdict === 'missed'}
    <path d="M8 1.5L15 14.5H1z" fill="var(--alarm)" />
  {:else if verdict === 'borderline'}
    <circle cx="8" cy="8" r="6" fill="none" stroke="var(--ink)" stroke-width="1.6" />
    <path d="M8 2a6 6 0 0 1 0 12z" fill="var(--ink)" />
  {:else if verdict === 'not_seen'}
    <rect
      x="2"
      y="2"
      width="12"
      height="12"
      fill="none"
      stroke="var(--soft)"
      stroke-width="1.4"
      stroke-dasharray="2.4 2"
    />
  {:else}
    <path d="M4 8h8" stroke="var(--soft)" stroke-width="1.6" />
  {/if}
</svg>
