<script lang="ts">
  import { studentDoor } from '../lib/eye/door'
  import EyePage from '../lib/eye/EyePage.svelte'
  import { say } from '../lib/eye/say'

  /** Training the eye on a student's own page. */
  interface Props {
    base: string
    student: string
    academy: string
    /** Techniques that the student works on. */
    own: readonly string[]
  }
  let { base, student, academy, own }: Props = $props()
  const door = $derived(studentDoor(base))
</script>

<main class="mx-auto max-w-3xl px-4 py-4">
  <p class="text-sm"><a class="underline" href={base}>← {student} · {academy}</a></p>
  <EyePage {door} {own}>
    {#snippet intro()}
      <p class="soft mt-1">
        {say(
          'Short sets on film whose truth is known: mark an event, say an angle, find what was missed. Afterwards you see what is so, and how far off you were.',
        )}
      </p>
      <p class="soft mt-1">
        {say(
          'Watching is not practising: throws, falls, kicks and holds can injure. Try them only under a teacher’s eye and by the rules of your hall.',
        )}
      </p>
    {/snippet}
  </EyePage>
</main>
